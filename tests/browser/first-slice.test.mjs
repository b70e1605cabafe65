import { test } from "node:test";
import assert from "node:assert/strict";
import { open, Hands, signIn, signInByHand, listed, downloaded, base } from "./browser.mjs";

test("from sign-in to a finished run of the demo docket in at most 15 actions, and the files", async () => {
  const { browser, page } = await open();
  const hands = new Hands(page);
  try {
    await signInByHand(hands);
    await listed(page, "a.docket-open:has-text('Fernblick thank-you card')");
    await hands.click("a.docket-open:has-text('Fernblick thank-you card')");
    // The fold, drawn as a red line that stops short of the edges, came in as one.
    await page.waitForSelector(".tally:has-text('0 stops')");
    await page.waitForSelector(".look:has-text('red line'):has-text('nearly reaches both edges')");
    // The words are drawn, not cut, as their layer says.
    await page.waitForSelector(".look:has-text('in “words”') .op-draw");
    await hands.click(".slip a:has-text('Lay out')");
    await hands.click("button:has-text('Lay out')");
    await page.waitForSelector("figure.sheet");
    await hands.click("a:has-text('Go on to Run')");
    await hands.click("button:has-text('Run sheet 1')");
    for (let i = 0; i < 6; i++) {
      const ask = await page.waitForSelector("button:has-text('Done, go on'), p.say.is-fine");
      if (await ask.evaluate(e => e.tagName) === "P") break;
      const asked = await page.textContent(".ask");
      await hands.click("button:has-text('Done, go on')");
      await page.waitForFunction(t => document.querySelector(".ask")?.textContent !== t, asked);
    }
    await page.waitForSelector("p.say.is-fine:has-text('Finished')");
    // What was done is shown beside what was planned, compared by place.
    const said = await page.textContent(".run-sheet figcaption");
    assert.ok(Number(said.match(/Done as planned; nowhere more than ([\d.]+) mm beside it/)?.[1]) <= 0.05, said);
    console.log(`actions from sign-in to a finished run: ${hands.actions}`);
    assert.ok(hands.actions <= 15, `${hands.actions} actions`);
    await page.click("summary:has-text('Files for another program')");
    assert.match(await downloaded(page, "a:has-text('PDF')"), /^PK/);
    assert.deepEqual(page.problems, []);
  } finally {
    await browser.close();
  }
});

test("a file that is dropped becomes a docket, explained; one that is none is said to be none", async () => {
  const { browser, page } = await open();
  const hands = new Hands(page);
  try {
    await signIn(hands);
    await page.setInputFiles("input[type=file]", { name: "notes.svg", mimeType: "image/svg+xml", buffer: Buffer.from("only some words") });
    await page.waitForSelector("p.say.is-stop:has-text('“notes.svg” was not brought in: this is not an SVG file.')");
    const svg = "<svg xmlns='http://www.w3.org/2000/svg' width='100mm' height='60mm' viewBox='0 0 100 60'><rect width='100' height='60' "
      + "fill='#fdfdfb'/><path d='M50 0V60' stroke='blue' fill='none'/></svg>";
    await page.setInputFiles("input[type=file]", { name: "hut-menu.svg", mimeType: "image/svg+xml", buffer: Buffer.from(svg) });
    await page.waitForURL("**/bring-in");
    await page.waitForSelector(".look:has-text('open, straight, reaches both edges')");
    assert.equal(await page.title(), "Hut menu, Bring in – Falzkunst");
    // Undo by keyboard, redo by keyboard.
    await page.selectOption(".look select", "cut");
    await page.waitForSelector(".tally:has-text('1 stop')");
    await page.keyboard.press("Escape");
    await page.evaluate(() => document.activeElement?.blur());
    await page.keyboard.press("Control+z");
    await page.waitForSelector(".tally:has-text('0 stops')");
    await page.keyboard.press("Control+Shift+Z");
    await page.waitForSelector(".tally:has-text('1 stop')");
    assert.deepEqual(page.problems, []);
  } finally {
    await browser.close();
  }
});

test("two people: the second is told, sees the newest state, and can make the change all the same", async () => {
  const first = await open(), second = await open();
  try {
    await signIn(new Hands(first.page));
    await signIn(new Hands(second.page), "tobias@murmeltier.example");
    for (const { page } of [first, second]) await page.goto(base + "/dockets/43/build");
    await first.page.selectOption(".look:has-text('dashed') select", "perforate");
    await first.page.waitForSelector(".look:has-text('dashed') .op-perforate");
    // The same thing: told, and done all the same if one wants.
    await second.page.selectOption(".look:has-text('dashed') select", "draw");
    await second.page.waitForSelector(".notice:has-text('Vreni Aumann changed this docket')");
    await second.page.waitForSelector(".look:has-text('dashed') .op-perforate");
    await second.page.click(".notice button");
    await second.page.waitForSelector(".look:has-text('dashed') .op-draw");
    // Another thing: both are done, and the first undoes her own, not his.
    const count = (page, op, n) => page.waitForFunction(([o, k]) => document.querySelectorAll(`.op-select.op-${o}`).length === k, [op, n]);
    await first.page.selectOption(".look:has-text('little strokes') select", "perforate");
    await count(first.page, "perforate", 1);
    await first.page.waitForSelector(".look:has-text('dashed') .op-draw");
    await second.page.selectOption(".look:has-text('dashed') select", "perforate");
    await count(second.page, "perforate", 2);
    await first.page.goto(base + "/dockets/43/build");
    await first.page.click("[data-key='undo']");
    await count(first.page, "score", 1);
    await first.page.waitForSelector(".look:has-text('dashed') .op-perforate");
  } finally {
    await first.browser.close();
    await second.browser.close();
  }
});
