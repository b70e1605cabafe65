import { test } from "node:test";
import assert from "node:assert/strict";
import { open, Hands, signIn, settled } from "./browser.mjs";

// A strip of waves over the upper edge of a box, and a round that touches neither.
const sheet = `<svg xmlns="http://www.w3.org/2000/svg" width="140mm" height="110mm" viewBox="0 0 140 110">
  <rect x="20" y="40" width="60" height="40" fill="#f4ead2"/>
  <path d="M20 52V38C26 28 34 28 40 38C46 48 54 48 60 38C66 28 74 28 80 38V52Z" fill="#2f5d46"/>
  <circle cx="120" cy="20" r="9" fill="#b86842"/></svg>`;

test("pieces become one by pointing at what they would become, and apart again by undo", { timeout: 60_000 }, async () => {
  const { browser, page } = await open();
  try {
    const hands = new Hands(page);
    await signIn(hands, "tobias@murmeltier.example");
    await page.setInputFiles("input[type=file]", { name: "waves.svg", mimeType: "image/svg+xml", buffer: Buffer.from(sheet) });
    await page.waitForURL("**/bring-in");
    await page.goto(page.url().replace("bring-in", "build"));
    await page.waitForSelector(".ruler text");
    const at = async (n, x, y) => {
      const box = await page.locator(".piece .paper").nth(n).boundingBox();
      return [box.x + box.width * x, box.y + box.height * y];
    };
    const pieces = () => page.locator(".piece").count();
    assert.equal(await pieces(), 3);
    // Three actions: the one, the other, and what they would become.
    await page.mouse.click(...await at(0, 0.5, 0.8));
    await page.keyboard.down("Shift");
    await page.mouse.click(...await at(1, 0.2, 0.5));
    await page.keyboard.up("Shift");
    await page.waitForSelector("#together .plate");
    const plates = await page.locator("#together .plate span").allInnerTexts();
    assert.equal(plates.length, 5);
    assert.match(plates[0], /^One piece\s+1 piece, [\d.]+ cm²$/);
    await page.click("#together .plate:has-text('One piece')");
    await page.waitForFunction(() => document.querySelectorAll(".piece").length === 2);
    await settled(page);
    assert.equal(await page.innerText(".card h1"), "Ivory");
    await page.keyboard.press("Control+z");
    await page.waitForFunction(() => document.querySelectorAll(".piece").length === 3);
    await settled(page);
    // What does not touch can't become one, and the reason is there before anybody tries.
    await page.keyboard.press("Escape");
    await page.mouse.click(...await at(0, 0.5, 0.8));
    await page.keyboard.down("Shift");
    await page.mouse.click(...await at(2, 0.5, 0.5));
    await page.keyboard.up("Shift");
    await page.waitForSelector(".card :text(\"They don't all touch\")");
    assert.deepEqual(page.problems, []);
  } finally {
    await browser.close();
  }
});
