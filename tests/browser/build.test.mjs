import { test } from "node:test";
import assert from "node:assert/strict";
import { open, Hands, signIn, settled, base } from "./browser.mjs";

async function atBuild(number, work) {
  const { browser, page } = await open();
  try {
    await signIn(new Hands(page), "tobias@murmeltier.example");
    await page.goto(`${base}/dockets/${number}/build`);
    await page.waitForSelector(".ruler text");
    await work(page);
    assert.deepEqual(page.problems, []);
  } finally {
    await browser.close();
  }
}

/** Where a point in mm lies on the screen. */
const onScreen = (page, x, y) => page.$eval(".table-svg", (svg, [x, y]) => {
  const p = new DOMPoint(x, y).matrixTransform(svg.getScreenCTM());
  return { x: p.x, y: p.y };
}, [x, y]);

test("measuring catches corners, says the distance, and leaves what is chosen alone", () => atBuild(41, async page => {
  await page.keyboard.press("m");
  const a = await onScreen(page, 1, 1), b = await onScreen(page, 147.2, 0.9);
  await page.mouse.click(a.x, a.y);
  await page.waitForSelector(".measured circle", { state: "attached" });
  await page.mouse.click(b.x, b.y);
  await page.waitForFunction(() => document.querySelector(".measured text")?.textContent === "148 mm");
  await page.keyboard.press("Escape");
  assert.equal(await page.$(".measured"), null);
  assert.match(page.url(), /build$/);
}));

test("a piece is found by a part of its name, with the keyboard alone", () => atBuild(41, async page => {
  await page.keyboard.press("/");
  await page.waitForSelector("#find:popover-open");
  await page.keyboard.type("zzz");
  await page.waitForSelector(".find-none:visible");
  for (let i = 0; i < 3; i++) await page.keyboard.press("Backspace");
  await page.keyboard.type("near rid");
  await page.keyboard.press("Enter");
  await page.waitForSelector(".card h1:has-text('Near ridge')");
}));

test("a click once more at the same place chooses the piece below, and after the lowest the topmost", () => atBuild(41, async page => {
  const chosen = () => page.$$eval(".piece.chosen", all => all.map(e => e.dataset.id).join());
  const { x, y } = await onScreen(page, 58, 188), seen = [];
  for (let k = 0; k < 12 && (k < 2 || seen.at(-1) !== seen[0]); k++) {
    await page.mouse.click(x, y);
    await page.waitForFunction(was => ![was, ""].includes([...document.querySelectorAll(".piece.chosen")].map(e => e.dataset.id).join()), seen.at(-1) ?? "");
    seen.push(await chosen());
  }
  assert.equal(seen.at(-1), seen[0]);
  assert.ok(seen.length > 3, seen.join(" "));
}));

test("a ply is dragged to another place in the pile, and undone", () => atBuild(41, async page => {
  const names = () => page.$$eval(".pile text", t => t.map(e => e.textContent.replace(/^\d+ /, "")));
  const before = await names();
  const box = await (await page.$(".pile-ply:nth-of-type(2) path")).boundingBox();
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2, box.y - 200, { steps: 8 });
  await page.mouse.up();
  await page.waitForFunction(name => document.querySelector(".pile-ply:last-of-type text")?.textContent.endsWith(name), before[1]);
  assert.deepEqual(await names(), [...before.filter((_, i) => i !== 1), before[1]]);
  await settled(page);
  await page.keyboard.press("Control+z");
  await page.waitForFunction(name => document.querySelector(".pile-ply:nth-of-type(2) text")?.textContent.endsWith(name), before[1]);
}));

test("a fold is made a mountain or a valley, and its triangles turn", () => atBuild(43, async page => {
  const line = await page.$$eval(".line", all => all.find(l => l.querySelector(".fold-end")).dataset.id);
  await page.goto(`${base}/dockets/43/build?line=${line}`);
  const before = await page.getAttribute(`[data-id="${line}"] .fold-end`, "d");
  await page.click("button[name=side][aria-pressed=false]");
  await page.waitForFunction(([id, d]) => document.querySelector(`[data-id="${id}"] .fold-end`).getAttribute("d") !== d, [line, before]);
}));
