import { test } from "node:test";
import assert from "node:assert/strict";
import { open, boxOnEmptyPage, Hands, settled, signIn, faults } from "./browser.mjs";

/** Presses at the middle of something and lets go somewhere else. */
async function drag(page, selector, dx, dy, midway) {
  const box = await page.locator(selector).first().boundingBox(), x = box.x + box.width / 2, y = box.y + box.height / 2;
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x + dx / 2, y + dy / 2, { steps: 4 });
  await page.mouse.move(x + dx, y + dy, { steps: 4 });
  await midway?.();
  await page.mouse.up();
  await settled(page);
}

test("pieces are moved on a sheet by hand, pinned, set beside, and the rest is laid out around them", async () => {
  const { browser, page } = await open();
  try {
    const hands = new Hands(page);
    await signIn(hands, "tobias@murmeltier.example");
    await boxOnEmptyPage(page, "60");
    await page.fill("[name=copies]", "5");
    await page.keyboard.press("Enter");
    await page.waitForFunction(() => /5 copies/.test(document.querySelector("#slip").innerText));
    await page.click("#slip a:has-text('Lay out')");
    await page.click("button:has-text('Lay out')");
    await page.click(".wall figure a >> nth=0");
    await page.waitForSelector("[data-by-hand]");
    const lies = async name => page.locator(`[data-laid="${name}"]`).boundingBox();
    const names = await page.locator("[data-laid]").evaluateAll(all => all.map(a => a.dataset.laid));
    assert.equal(names.length, 5);
    const boxes = await Promise.all(names.map(lies)), perMm = (await page.locator(".sheet-paper").boundingBox()).width / 210;
    const lowest = boxes.indexOf(boxes.reduce((low, box) => box.y > low.y + 1 ? box : low));
    const [first, second] = [names[lowest === 0 ? 1 : 0], names[lowest]], [a, b] = [await lies(first), await lies(second)];

    // Onto the lower edge of a neighbour: that lights up, and the piece comes to lie below it, with the gap between them.
    await drag(page, `[data-laid="${first}"]`, b.x - a.x, b.y - a.y + b.height - 10, async () => {
      await page.waitForSelector(".in-the-way");
      assert.match(await page.innerText(".one-sheet figcaption"), /mm to the/);
    });
    await page.waitForFunction(name => document.querySelector("[data-chosen]")?.dataset.chosen === name, first);
    const [now, other] = [await lies(first), await lies(second)], middle = box => box.y + box.height / 2;
    const apart = (middle(now) - middle(other)) / perMm;
    assert.ok(Math.abs(apart - 62) < 0.5, `${apart} mm from middle to middle`);
    assert.match(await page.innerText(".card"), /from the left[\s\S]*lies on/);
    assert.deepEqual(await faults(page), []);

    // Undo and redo are of the layout here.
    await page.keyboard.press("Control+z");
    await page.waitForFunction(([name, y]) => Math.abs(document.querySelector(`[data-laid="${name}"]`).getBoundingClientRect().y - y) < 5, [first, a.y]);
    await page.keyboard.press("Control+Shift+z");
    await page.waitForFunction(([name, y]) => Math.abs(document.querySelector(`[data-laid="${name}"]`).getBoundingClientRect().y - y) < 5, [first, now.y]);

    // Numbers, turns and keys.
    await page.click(".card button:has-text('right')");
    await settled(page);
    await page.keyboard.press("ArrowDown");
    await page.keyboard.press("Shift+ArrowDown");
    await page.waitForFunction(name => !document.querySelector(".is-lifted") && document.querySelector(`[data-laid="${name}"]`), first);
    await settled(page);

    // Pinned, it stays; what is set beside is not cut, and the slip says so.
    await page.click("button:has-text('Pin it here')");
    await page.waitForSelector(".pin");
    const pinned = await lies(first);
    await page.click(`[data-laid="${second}"]`);
    await page.waitForFunction(name => document.querySelector("[data-chosen]")?.dataset.chosen === name, second);
    await page.keyboard.press("Delete");
    await page.waitForFunction(() => /1 not cut/.test(document.querySelector("#slip").innerText));
    assert.match(await page.innerText(".beside"), /1 piece, not cut/);
    await page.click(".card a:has-text('Choose nothing')");
    await page.click("button:has-text('Lay out the rest around 1 pinned')");
    await page.click(".wall figure a >> nth=0");
    await page.waitForSelector("[data-by-hand]");
    const again = await lies(first);
    assert.ok(Math.abs(again.x - pinned.x) < 3 && Math.abs(again.y - pinned.y) < 3);
    assert.equal(await page.locator("[data-laid]").count(), 4);

    // From beside, back onto the sheet by hand.
    const sheet = await page.locator(".sheet-paper").boundingBox(), at = await page.locator("[data-beside]").boundingBox();
    await drag(page, "[data-beside]", sheet.x + sheet.width * 0.7 - at.x, sheet.y + sheet.height * 0.8 - at.y);
    await page.waitForFunction(() => document.querySelectorAll("[data-laid]").length === 5);
    assert.doesNotMatch(await page.innerText("#slip"), /not cut/);
    assert.deepEqual(page.problems, []);
  } finally {
    await browser.close();
  }
});
