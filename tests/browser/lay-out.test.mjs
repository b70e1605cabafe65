import { test } from "node:test";
import assert from "node:assert/strict";
import { base, open, boxOnEmptyPage, Hands, signIn, faults } from "./browser.mjs";

test("equal sheets hang as one stack, and one of them is seen as it lies on the mat", async () => {
  const { browser, page } = await open();
  try {
    const hands = new Hands(page);
    const axe = async () => assert.deepEqual(await faults(page), []);
    await signIn(hands, "tobias@murmeltier.example");
    await boxOnEmptyPage(page, "140");
    await page.fill("[name=copies]", "9");
    await page.keyboard.press("Enter");
    await page.waitForFunction(() => /9 copies/.test(document.querySelector("#slip").innerText));
    hands.actions = 0;
    await hands.click("#slip a:has-text('Lay out')");
    await hands.click("button:has-text('Lay out')");
    await page.waitForSelector(".wall figure");
    // All are equal but the last, perhaps.
    const stacks = await page.locator(".wall figure").count();
    assert.ok(stacks <= 2, `${stacks} kinds of sheets`);
    assert.match(await page.innerText(".wall figure >> nth=0"), /\d × this sheet\s+sheets 1 to \d/);
    assert.match(await page.innerText(".drawer"), /\d of \d+/);
    await axe();
    await hands.click(".wall figure a >> nth=0");
    await page.waitForSelector(".mat");
    assert.match(await page.innerText(".one-sheet figcaption"), /upper left corner/);
    assert.match(await page.innerText(".card"), /all the same[\s\S]*paper used/);
    await axe();
    console.log(`# actions from the slip to a sheet on its mat: ${hands.actions}`);
    assert.ok(hands.actions <= 3);
    await page.click(".sheet-nav a:has-text('All sheets')");
    await page.waitForSelector(".wall");
    // Another gap is laid out with at once, and undone like any change of the card.
    const gap = () => page.innerText(".facts dd >> nth=2");
    assert.match(await gap(), /^2 mm$/);
    await page.click("#laying summary");
    await page.fill("#laying [name=gap]", "60 mm");
    await page.click("#laying button");
    await page.waitForSelector("text=Pieces keep 0 to 50 mm from each other.");
    await page.click("#laying summary");
    await page.fill("#laying [name=gap]", "4");
    await page.check("#laying [name=together]");
    await axe();
    await page.click("#laying button");
    await page.waitForFunction(() => /gap\s+4 mm/.test(document.querySelector(".facts")?.innerText ?? ""));
    assert.match(await page.innerText("#laying summary"), /4 mm, by quarters, together/);
    await page.click("text=Undo");
    await page.waitForSelector("text=this layout is out of date");
    assert.match(await page.innerText("#laying summary"), /2 mm, by quarters$/);
    assert.deepEqual(page.problems, []);
  } finally {
    await browser.close();
  }
});

test("two dockets of the same paper are laid out together in three actions, and parted in one", async () => {
  const { browser, page } = await open();
  try {
    const hands = new Hands(page);
    await signIn(hands, "tobias@murmeltier.example");
    const numbers = [];
    for (const width of ["60", "70"]) {
      await page.goto(`${base}/dockets`);
      await boxOnEmptyPage(page, width);
      numbers.push(page.url().match(/dockets\/(\d+)/)[1]);
    }
    const [other, own] = numbers;
    await page.click("#slip a:has-text('Lay out')");
    await page.click("button:has-text('Lay out')");
    await page.waitForSelector(".wall figure");
    hands.actions = 0;
    await hands.click("#together summary");
    await hands.click(`#companions input[value='${other}']`);
    assert.deepEqual(await faults(page), []);
    await hands.click("#companions button");
    await page.waitForFunction(n => document.querySelector(".facts")?.innerText.includes(`of docket ${n}`), other);
    assert.equal(hands.actions, 3);
    assert.match(await page.innerText("#together summary"), new RegExp(`with ${other}`));
    // The other one says where its sheets are, and shows those that its pieces lie on.
    await page.click(`.facts a:has-text('docket ${other}')`);
    await page.waitForSelector(`h1:has-text('On the sheets of docket ${own}')`);
    assert.equal(await page.locator(".wall figure").count(), 1);
    assert.match(await page.innerText("#slip"), new RegExp(`with\\s+docket ${own}`));
    await page.click("text=Lay out by itself again");
    await page.waitForSelector(".facts >> text=sheets");
    assert.match(await page.innerText("#together summary"), /by itself/);
    assert.deepEqual(page.problems, []);
  } finally {
    await browser.close();
  }
});
