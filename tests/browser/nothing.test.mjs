import { test } from "node:test";
import assert from "node:assert/strict";
import { open, Hands, signIn, settled } from "./browser.mjs";

/** Works with a hand that counts, signed in, in front of the list of dockets. */
async function withHands(work) {
  const { browser, page } = await open();
  try {
    await signIn(new Hands(page), "tobias@murmeltier.example");
    await work(page, new Hands(page));
    assert.deepEqual(page.problems, []);
  } finally {
    await browser.close();
  }
}

/** Waits until the table shows so many pieces and nothing is under way. */
async function pieces(page, n) {
  await page.waitForFunction(n => document.querySelectorAll(".piece").length === n, n);
  await settled(page);
}

/** Starts a docket with a base of a kind, or with the one that is proposed. */
async function start(page, hands, kind) {
  if (kind) await hands.choose(".begin [name=kind]", kind);
  await hands.click(".begin button:has-text('Start with this base')");
  await page.waitForURL("**/build");
  await page.waitForSelector(".ruler text");
  await pieces(page, 1);
}

/** The facts of what is chosen, and of findings, in one text. */
const said = page => page.locator("#findings").innerText();

test("from nothing: a folded A6 base with a round window and a centred line in 8 actions", () => withHands(async (page, hands) => {
  await start(page, hands);
  await hands.click("#add-shape > summary");
  await hands.type("#add-shape [name=width]", "2*25");
  await hands.click("#add-shape [value=hole]");
  await hands.click("#add-shape [value=ellipse]");
  await page.waitForSelector(".ring");
  await hands.click("#write > summary");
  await hands.type("#write [name=text]", "with thanks from the hut");
  await hands.click("#write button:has-text('Write it')");
  await page.waitForSelector(".is-words");
  await settled(page);
  assert.equal(hands.actions, 8);
  // On the front, between its margins, below the window; nothing is said against it.
  const [left, top, width] = (await page.getAttribute(".is-words", "data-box")).split(" ").map(Number);
  assert.ok(Math.abs(left + width / 2 - 157.5) < 0.01 && width <= 89.01 && top > 74 + 25, `${left} ${top} ${width}`);
  assert.match(await said(page), /0 stops\s+0 warnings/);
  // They stay words: other ones, by a double click.
  await page.keyboard.press("Escape");
  const [x, y] = await page.locator(".is-words path").first().evaluate(p => {
    const at = p.getPointAtLength(0).matrixTransform(p.getScreenCTM());
    return [at.x, at.y];
  });
  await page.mouse.dblclick(x, y);
  await page.waitForFunction(() => document.activeElement?.matches("#words textarea"));
  await page.keyboard.press("Control+a");
  await page.keyboard.type("thank you");
  await page.click("#words button:has-text('Write it so')");
  await page.waitForFunction(() => Number(document.querySelector(".is-words")?.dataset.box.split(" ")[2]) < 60);
}));

test("from nothing: three round tops of different size, and a fold 12 mm below them, in 12 actions", () =>
  withHands(async (page, hands) => {
    await start(page, hands, "Flat");
    await hands.click("#fold > summary");
    await hands.type("#fold [name=distance]", "12 mm");
    await hands.click("#fold button:has-text('Fold there')");
    await page.waitForSelector(".fold-end");
    await hands.click("#add-shape > summary");
    await hands.type("#add-shape [name=width]", "28, 40, 22");
    await hands.choose("#add-shape [name=at]", "Top");
    await hands.click("#add-shape [value=joined]");
    await hands.click("#add-shape [value=ellipse]");
    await page.waitForFunction(() => Number(document.querySelector(".piece").dataset.box.split(" ")[1]) < -19);
    await settled(page);
    assert.ok(hands.actions <= 12, `${hands.actions} actions`);
    assert.equal(await page.locator(".piece").count(), 1);
    const [, top, , height] = (await page.getAttribute(".piece", "data-box")).split(" ").map(Number);
    assert.deepEqual([top, height], [-20, 168]);
    assert.equal(await page.locator(".ring").count(), 0);
  }));

test("from nothing: a wavy strip joined to a rectangle of a typed width, without a notch, in 6 actions", () =>
  withHands(async (page, hands) => {
    await hands.click(".begin button:has-text('empty page')");
    await page.waitForURL("**/build");
    await page.waitForSelector("#add-shape [name=width]");
    await hands.type("#add-shape [name=width]", "3 3/4 in");
    await hands.click("#add-shape [value=rectangle]");
    await pieces(page, 1);
    await hands.choose("#add-shape [name=at]", "Top");
    await hands.click("#add-shape [value=joined]");
    await hands.click("#add-shape [value=waves]");
    await page.waitForFunction(() => Math.abs(Number(document.querySelector(".piece").dataset.box.split(" ")[3]) - 107.25) < 0.01);
    assert.equal(hands.actions, 6);
    // Six waves of two bends, two sides and a foot: where both met, nothing is left of the seam.
    const outline = await page.getAttribute(".piece .paper", "d") ?? await page.locator(".piece path").first().getAttribute("d");
    const numbers = part => (outline.match(part)?.[0].match(/-?[\d.]+/g) ?? []).length;
    assert.deepEqual([numbers(/c[^a-z]*/), numbers(/l[^a-z]*/)], [72, 8], outline);
  }));

test("from nothing: mats 5 mm less on each side on three panels, in 5 actions", () => withHands(async (page, hands) => {
  await start(page, hands, "TriFold");
  await hands.click("#fold > summary");
  await hands.type("#fold [name=less]", "5 mm");
  await hands.click("#fold button:has-text('Lay mats')");
  await pieces(page, 4);
  assert.equal(hands.actions, 5);
  const boxes = await page.locator(".piece").evaluateAll(all => all.slice(1).map(p => p.dataset.box));
  assert.deepEqual(boxes, ["5 5 95 138", "110 5 95 138", "215 5 95 138"]);
}));

test("from nothing: a sentiment inside, within margins, on the inner face, in 5 actions", () => withHands(async (page, hands) => {
  await start(page, hands);
  await hands.click("#write > summary");
  await hands.type("#write [name=text]", "may the path be dry\nand the soup be hot");
  await hands.click("#write [name=inner]");
  await hands.click("#write button:has-text('Write it')");
  await page.waitForSelector(".is-words.is-inner");
  await settled(page);
  assert.equal(hands.actions, 5);
  // Inside it is read on the right, which is the back of the back panel.
  const [left, , width] = (await page.getAttribute(".is-words", "data-box")).split(" ").map(Number);
  assert.ok(left >= 7.99 && left + width <= 97.01 && Math.abs(left + width / 2 - 52.5) < 0.01, `${left} ${width}`);
}));
