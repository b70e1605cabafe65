import { test } from "node:test";
import assert from "node:assert/strict";
import { open, Hands, signIn, base, settled } from "./browser.mjs";

test("a foiled line is filled from a plate that says time and coverage, and one action leaves only the outer edges", async () => {
  const { browser, page } = await open();
  const hands = new Hands(page);
  try {
    await signIn(hands);
    await page.goto(`${base}/dockets/41/build?line=l1`);
    await page.waitForSelector("button.plate[value=echo]");
    const says = await page.textContent("button.plate[value=echo] small");
    assert.match(says, /\d+ s, (9[7-9]|100) % covered/);
    const before = hands.actions;
    await hands.click("button.plate[value=echo]");
    await page.waitForSelector(".table-svg .infill");
    await page.waitForSelector("button.plate[value=echo][aria-pressed=true]");
    assert.equal(hands.actions - before, 1);
    await page.click("button:has-text('Undo')");
    await page.waitForFunction(() => !document.querySelector(".table-svg .infill"));
    await page.goto(`${base}/dockets/41/build`);
    await hands.click("button:has-text('Cut only outer edges')");
    await page.waitForFunction(() => !document.querySelector("#work .op-draw, #work .op-foil"));
    await page.click("button:has-text('Undo')");
    await page.waitForSelector("#work .op-foil");
    await settled(page);
    assert.deepEqual(page.problems, []);
  } finally {
    await browser.close();
  }
});

test("two sheets in two actions, a second window and a phone see the same, and a frame on the sheet chooses what is done again", async () => {
    const { browser, page, context } = await open();
    const hands = new Hands(page);
    try {
      await signIn(hands);
      await page.goto(`${base}/dockets/43/lay-out`);
      if (!(await page.$("a:has-text('Go on to Run')"))) await page.click("main button:has-text('Lay out'), aside button:has-text('Lay out')");
      await page.waitForSelector("a:has-text('Go on to Run')");
      await page.goto(`${base}/dockets/43/run`);
      const before = hands.actions;
      await hands.click("button:has-text('Run sheet 1')");
      const phone = await context.newPage();
      await phone.setViewportSize({ width: 390, height: 760 });
      await phone.goto(`${base}/dockets/43/run`);
      // What to do now stands on the first screen.
      // It may be replaced by what comes next in the very moment in which it is measured.
      let box = null;
      while (!box) box = await phone.locator(".working").first().boundingBox();
      assert.ok(box.y < 400 && box.width <= 390, JSON.stringify(box));
      await finished(page, hands, "Sheet 1,");
      await hands.click("button:has-text('Run sheet 2')");
      await finished(page, hands, "Sheet 2,");
      const asked = hands.actions - before - hands.tools;
      console.log(`two sheets: ${asked} actions besides ${hands.tools} for tools`);
      assert.ok(asked <= 4, `${asked} actions`);
      // A click chooses a line, and another one leaves it out again.
      const onLine = () => page.evaluate(() => {
        const line = document.querySelector(".run-sheet path.done");
        line.scrollIntoView({ block: "center" });
        const at = line.getPointAtLength(line.getTotalLength() / 3);
        const { x, y } = new DOMPoint(at.x, at.y).matrixTransform(line.getScreenCTM());
        return [x, y];
      });
      await page.mouse.click(...await onLine());
      await page.waitForSelector("text=1 line chosen");
      await page.mouse.click(...await onLine());
      await page.waitForFunction(() => !document.querySelector(".is-picked"));
      // A frame over all of the sheet.
      const sheet = await (await page.waitForSelector(".run-sheet .sheet-svg")).boundingBox();
      await page.mouse.move(sheet.x + 5, sheet.y + 5);
      await page.mouse.down();
      await page.mouse.move(sheet.x + sheet.width - 5, Math.min(740, sheet.y + sheet.height - 5), { steps: 4 });
      await page.mouse.up();
      assert.match(await page.inputValue("[data-touch-up] [name=wide]"), /^\d+\.\d mm$/);
      await page.click("button:has-text('Run these lines again')");
      await page.waitForSelector("text=a touch-up");
      await finished(page, hands, "Sheet 2,");
      assert.deepEqual(page.problems, []);
    } finally {
      await browser.close();
    }
  });

test("a docket whose machine is at another says which, and goes on by itself when that is over", async () => {
  const { browser, page, context } = await open();
  const hands = new Hands(page);
  try {
    await signIn(hands);
    for (const docket of [43, 41]) {
      await page.goto(`${base}/dockets/${docket}/lay-out`);
      if (!(await page.$("a:has-text('Go on to Run')"))) await page.click("main button:has-text('Lay out'), aside button:has-text('Lay out')");
      await page.waitForSelector("a:has-text('Go on to Run')");
    }
    await page.goto(`${base}/dockets/41/run?sheet=2`);
    // Begun without its hands, so that it asks for them.
    await page.$eval("form[action*='Start'] [name=loaded]", e => { e.value = "false"; });
    await page.click("button:has-text('Run sheet 3')");
    await page.waitForSelector("button:has-text('Done, go on')");
    const other = await context.newPage();
    await other.goto(`${base}/dockets/43/run`);
    await other.waitForSelector(".ask:has-text('is at sheet 3 of docket 41')");
    await page.click("button:has-text('Stop this run')");
    await other.waitForSelector(".ask:has-text('is at sheet')", { state: "detached" });
    assert.deepEqual(page.problems, []);
  } finally {
    await browser.close();
  }
});

/** Waits until a sheet is done, and puts in the tools that are asked for meanwhile. */
async function finished(page, hands, sheet) {
  hands.tools ??= 0;
  await page.waitForSelector(`.run-sheet figcaption:has-text('${sheet}')`);
  for (let i = 0; i < 10; i++) {
    const seen = await page.waitForSelector("button:has-text('Done, go on'), p.say.is-fine:has-text('Finished')");
    if (await seen.evaluate(e => e.tagName) === "P") return;
    const asked = await page.textContent(".ask");
    await hands.click("button:has-text('Done, go on')");
    hands.tools++;
    await page.waitForFunction(t => document.querySelector(".ask")?.textContent !== t, asked);
  }
}
