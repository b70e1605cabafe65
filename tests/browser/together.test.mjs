import { test } from "node:test";
import assert from "node:assert/strict";
import { open, Hands, signIn, settled } from "./browser.mjs";

// A strip of waves over the upper edge of a box, and a round that touches neither.
const sheet = `<svg xmlns="http://www.w3.org/2000/svg" width="140mm" height="110mm" viewBox="0 0 140 110">
  <rect x="20" y="40" width="60" height="40" fill="#f4ead2"/>
  <path d="M20 52V38C26 28 34 28 40 38C46 48 54 48 60 38C66 28 74 28 80 38V52Z" fill="#2f5d46"/>
  <circle cx="120" cy="20" r="9" fill="#b86842"/></svg>`;

/** Works on a docket of its own with the three pieces. */
async function withWaves(work) {
  const { browser, page } = await open();
  try {
    await signIn(new Hands(page), "tobias@murmeltier.example");
    await page.setInputFiles("input[type=file]", { name: "waves.svg", mimeType: "image/svg+xml", buffer: Buffer.from(sheet) });
    await page.waitForURL("**/bring-in");
    await page.goto(page.url().replace("bring-in", "build"));
    await page.waitForSelector(".ruler text");
    const at = async (n, x, y) => {
      const box = await page.locator(".piece .paper").nth(n).boundingBox();
      return [box.x + box.width * x, box.y + box.height * y];
    };
    const pieces = async n => {
      await page.waitForFunction(n => document.querySelectorAll(".piece").length === n, n);
      await settled(page);
    };
    await work(page, at, pieces);
    assert.deepEqual(page.problems, []);
  } finally {
    await browser.close();
  }
}

test("pieces become one by pointing at what they would become, and apart again by undo", () => withWaves(async (page, at, pieces) => {
  await pieces(3);
  // Three actions: the one, the other, and what they would become.
  await page.mouse.click(...await at(0, 0.5, 0.8));
  await page.keyboard.down("Shift");
  await page.mouse.click(...await at(1, 0.2, 0.5));
  await page.keyboard.up("Shift");
  await page.waitForSelector("#together .plate");
  const plates = await page.locator("#together .plate span").allInnerTexts();
  assert.equal(plates.length, 6);
  assert.match(plates[0], /^One piece\s+1 piece, [\d.]+ cm²$/);
  await page.click("#together .plate:has-text('One piece')");
  await pieces(2);
  assert.equal(await page.innerText(".card h1"), "Ivory");
  await page.keyboard.press("Control+z");
  await pieces(3);
  await page.keyboard.press("Escape");
  await page.mouse.click(...await at(0, 0.5, 0.8));
  await page.keyboard.down("Shift");
  await page.mouse.click(...await at(2, 0.5, 0.5));
  await page.keyboard.up("Shift");
  // Pointing at a plate shows it on the table; what lies apart is pushed together first.
  await page.hover("#together .plate:has-text('pushed together')");
  await page.waitForSelector(".tint-svg path", { state: "attached" });
  await page.click("#together .plate:has-text('pushed together')");
  await pieces(2);
}));

test("sizes are typed as arithmetic, a piece is turned, and doubled by a key", () => withWaves(async (page, at, pieces) => {
  const box = async id => (await page.getAttribute(`.piece[data-id=${id}]`, "data-box")).split(" ").map(Number);
  const becomes = (id, wanted) => page.waitForFunction(([id, wanted]) =>
    document.querySelector(`.piece[data-id=${id}]`).dataset.box.split(" ").slice(2).join(" ") === wanted, [id, wanted]);
  await page.mouse.click(...await at(0, 0.5, 0.8));
  await page.click("#size summary");
  // Three actions: the field, the number, Enter.
  await page.fill("#size [name=width]", "2*45");
  await page.keyboard.press("Enter");
  await becomes("p1", "90 60");
  assert.deepEqual(await box("p1"), [5, 30, 90, 60]);
  await page.fill("#size [name=height]", "0");
  await page.keyboard.press("Enter");
  await page.waitForSelector(":text('nothing was changed')");
  await settled(page);
  await page.click("#turn summary");
  await page.click("#turn button:has-text('right')");
  await becomes("p1", "60 90");
  await settled(page);
  await page.locator(".card h1").click();
  await page.keyboard.press("Control+d");
  await pieces(4);
}));
