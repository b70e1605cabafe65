import { test } from "node:test";
import assert from "node:assert/strict";
import { open, boxOnEmptyPage, Hands, signIn, settled } from "./browser.mjs";

test("a line and a curve are drawn by hand, a piece is cut apart along a dragged line, the history goes back, and the shelf keeps", async () => {
    const { browser, page } = await open();
    try {
      await signIn(new Hands(page), "tobias@murmeltier.example");
      await boxOnEmptyPage(page, "80");
      const paper = await page.locator(".piece .paper").first().boundingBox();
      const at = (x, y) => [paper.x + paper.width * x, paper.y + paper.height * y];
      const drag = async (...points) => {
        await page.mouse.move(...points[0]);
        await page.mouse.down();
        for (const p of points.slice(1)) await page.mouse.move(...p, { steps: 4 });
        await page.mouse.up();
        await page.waitForFunction(() => !document.querySelector(".drawn, .is-drawing"));
        await settled(page);
      };
      await page.click("[data-draw=line]");
      await drag(at(0.2, 0.2), at(0.8, 0.25));
      await page.click("[data-draw=free]");
      await drag(at(0.2, 0.6), at(0.4, 0.5), at(0.6, 0.7), at(0.8, 0.6));
      assert.equal(await page.locator(".line").count(), 2);
      await page.click("[data-draw=arc]");
      await drag(at(0.3, 0.8), at(0.5, 0.72), at(0.7, 0.8));
      const arc = await page.locator(".piece .line path[id]").last().getAttribute("d");
      assert.ok(arc.length < 200, arc);
      // Few curves of many points, and carried by the paper.
      const d = await page.locator(".piece .line path[id]").last().getAttribute("d");
      assert.ok(/c/i.test(d) && d.length < 400, d);
      await page.keyboard.press("Escape");
      await page.mouse.click(...at(0.5, 0.9));
      await page.waitForSelector(".handle");
      await page.click("[data-draw=cut]");
      await drag(at(0.5, -0.1), at(0.5, 1.1));
      await page.waitForFunction(() => document.querySelectorAll(".piece").length === 2);
      // Back to before the cut, whose state stays in the list.
      await page.keyboard.press("Escape");
      await page.click("#history > summary");
      await page.waitForSelector(".history li");
      assert.equal(await page.locator(".history li").count(), 6);
      await page.click(".history li:nth-child(2) button");
      await page.waitForFunction(() => document.querySelectorAll(".piece").length === 1);
      await settled(page);
      assert.match(await page.innerText(".history li:nth-child(1)"), /undone/);
      await page.click(".history li:nth-child(1) button");
      await page.waitForFunction(() => document.querySelectorAll(".piece").length === 2);
      await settled(page);
      // On the shelf, found by typing, and taken at its true size.
      await page.click("#shelf-group > summary");
      const name = `Two halves ${Date.now()}`;
      await page.fill("#shelf-group form [name=name]", name);
      await page.click("#shelf-group button:has-text('Keep')");
      await page.waitForSelector(":text('lies on the shelf')");
      await settled(page);
      // A click during which the list is exchanged would hit nothing.
      await Promise.all([page.waitForResponse(/handler=Shelf/), page.fill("#shelf-group [name=text]", `halves ${name.slice(-6)}`)]);
      await settled(page);
      await page.waitForFunction(() => document.querySelectorAll("#shelf .plate").length === 1);
      await page.click("#shelf .plate");
      await page.waitForFunction(() => document.querySelectorAll(".piece").length === 4);
      await settled(page);
      const boxes = await page.locator(".piece").evaluateAll(all => all.map(p => p.dataset.box.split(" ").slice(2).join(" ")));
      assert.deepEqual(boxes.slice(0, 2).sort(), boxes.slice(2).sort());
      // Dragged from the shelf, it lies where it is let go.
      await page.keyboard.press("Control+z");
      await page.waitForFunction(() => document.querySelectorAll(".piece").length === 2);
      await settled(page);
      await page.keyboard.press("Escape");
      await page.waitForSelector("#shelf-group");
      if (!await page.locator("#shelf-group").evaluate(g => g.open)) await page.click("#shelf-group > summary");
      await page.waitForSelector("#shelf .plate");
      const main = await page.locator("#main").boundingBox();
      await page.locator("#shelf .plate").first().dragTo(page.locator("#main"), { targetPosition: { x: main.width * 0.5, y: main.height * 0.5 } });
      await page.waitForFunction(() => document.querySelectorAll(".piece").length === 4);
      await settled(page);
      const centre = await page.evaluate(() => {
        const all = [...document.querySelectorAll(".piece .paper")].slice(-2).map(p => p.getBoundingClientRect());
        return [Math.min(...all.map(b => b.left)) + Math.max(...all.map(b => b.right)), Math.min(...all.map(b => b.top)) + Math.max(...all.map(b => b.bottom))];
      });
      assert.ok(Math.abs(centre[0] / 2 - main.x - main.width / 2) < 4 && Math.abs(centre[1] / 2 - main.y - main.height / 2) < 4, `${centre}`);
      assert.deepEqual(page.problems, []);
    } finally {
      await browser.close();
    }
  });
