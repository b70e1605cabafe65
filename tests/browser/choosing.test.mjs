import { test } from "node:test";
import assert from "node:assert/strict";
import { open, Hands, signIn, settled, base } from "./browser.mjs";
import { candidates, nearest, readPanels, snapped } from "../../src/Falzkunst.Web/wwwroot/js/table/snapping.js";

const circles = [...Array(12).keys()]
  .map(i => `<circle id="badge${i}" cx="${20 + i % 4 * 30}" cy="${20 + Math.floor(i / 4) * 30}" r="8" fill="${i % 2 ? "#2f5d46" : "#b86842"}"/>`).join("");
const sheet = `<svg xmlns="http://www.w3.org/2000/svg" width="140mm" height="110mm" viewBox="0 0 140 110">${circles}</svg>`;

async function withBadges(work) {
  const { browser, page } = await open();
  try {
    await signIn(new Hands(page), "tobias@murmeltier.example");
    await page.setInputFiles("input[type=file]", { name: "badges.svg", mimeType: "image/svg+xml", buffer: Buffer.from(sheet) });
    await page.waitForURL("**/bring-in");
    await page.goto(page.url().replace("bring-in", "build"));
    await page.waitForSelector(".ruler text");
    page.asked = [];
    page.on("request", r => { if (r.resourceType() !== "image") page.asked.push(`${r.method()} ${new URL(r.url()).search} `
      + `${r.isNavigationRequest() ? "page" : ""}`); });
    await work(page);
    assert.deepEqual(page.problems, []);
  } finally {
    await browser.close();
  }
}

/** Ids row by row, as the badges lie. */
const ids = (page, which = ".piece") => page.$$eval(which, all => all.map(p => ({ id: p.dataset.id, box: p.dataset.box.split(" ").map(Number) }))
  .sort((a, b) => a.box[1] - b.box[1] || a.box[0] - b.box[0]).map(p => p.id));
const chosen = page => ids(page, ".piece.chosen");
const boxes = page => page.$$eval(".piece", all => Object.fromEntries(all.map(p => [p.dataset.id, p.dataset.box.split(" ").map(Number)])));
const middle = async (page, id) => {
  const box = await page.locator(`[data-id=${id}] .paper`).boundingBox();
  return { x: box.x + box.width / 2, y: box.y + box.height / 2 };
};
const revision = page => page.getAttribute("#docket", "data-revision");

test("snapping: the nearest of many, an edge before a middle as near, nothing beyond reach", () => {
  const found = candidates([{ name: "Base", box: { left: 0, top: 0, right: 100, bottom: 40 } }, ...readPanels("front panel|0 20 100 20")]);
  const box = { left: 10, top: 50, right: 20, bottom: 60 };
  assert.equal(snapped(box, 83, 0, found, 1).x, null);
  const right = snapped(box, 79.4, 0, found, 1);
  assert.deepEqual([right.dx, right.x.at, right.x.text], [80, 100, "right edge of front panel"]);
  const centre = snapped(box, 35.2, -25.3, found, 1);
  assert.deepEqual([centre.dx, centre.dy, centre.y.text], [35, -25, "middle of front panel"]);
  // Of several in one place the panel is named, and else the largest.
  const around = (name, isPanel) => ({ name, box: { left: 0, top: 0, right: name === "Sky" ? 20 : 30, bottom: 10 }, isPanel });
  const right30 = candidates([around("Hut"), around("Base"), around("back panel", true)]).x;
  assert.deepEqual(right30.map(c => c.text), ["left edge of back panel", "middle of back panel", "right edge of back panel"]);
  assert.equal(candidates([around("Sky"), around("Base")]).x[0].text, "left edge of Base");
  const list = Array.from({ length: 1000 }, (_, i) => ({ at: i * i }));
  for (const at of [-5, 0, 3, 500_000, 5e6]) {
    const slow = list.reduce((a, b) => Math.abs(b.at - at) < Math.abs(a.at - at) ? b : a);
    assert.equal(nearest(list, at).at, slow.at);
  }
});

test("choosing by click, Shift, frame, ply and look asks for no page, and the card tells what is chosen", () => withBadges(async page => {
  const all = await ids(page);
  for (const [i, id] of [all[0], all[5]].entries()) {
    const p = await middle(page, id);
    if (i) await page.keyboard.down("Shift");
    await page.mouse.click(p.x, p.y);
    await page.keyboard.up("Shift");
  }
  await page.waitForSelector(".card h1:has-text('2 pieces')");
  assert.deepEqual(await chosen(page), [all[0], all[5]]);
  assert.match(page.url(), new RegExp(`pieces=${all[0]},${all[5]}$`));
  // A reload shows the same.
  await page.reload();
  await page.waitForSelector(".card h1:has-text('2 pieces')");
  assert.deepEqual(await chosen(page), [all[0], all[5]]);
  await page.keyboard.press("Escape");
  await page.waitForSelector(".looks");
  // A frame around the first row.
  const from = await middle(page, all[0]), to = await middle(page, all[3]);
  await page.keyboard.down("Shift");
  await page.mouse.move(from.x - 45, from.y - 45);
  await page.mouse.down();
  await page.mouse.move(to.x + 45, to.y + 45, { steps: 5 });
  await page.waitForSelector(".frame");
  await page.mouse.up();
  await page.keyboard.up("Shift");
  await page.waitForSelector(".card h1:has-text('4 pieces')");
  assert.deepEqual(await chosen(page), all.slice(0, 4));
  await page.keyboard.press("Escape");
  await page.waitForSelector(".looks");
  await page.click(".look-name >> nth=0");
  await page.waitForFunction(() => document.querySelectorAll(".piece.chosen").length === 6);
  await page.click(".pile-ply >> nth=0");
  await page.waitForSelector(".card h1:has-text('6 pieces')");
  await page.keyboard.press("Escape");
  await page.waitForSelector(".looks");
  await page.click("summary:has-text('Plies, top first')");
  await page.click(".plies a >> nth=0");
  await page.waitForSelector(".card h1:has-text('6 pieces')");
  await page.keyboard.press("Escape");
  await page.waitForSelector(".looks");
  assert.deepEqual(page.asked.filter(a => a.endsWith("page")).length, 1);
}));

test("pieces are dragged and catch what lies there, the view stays, and one undo puts them back", () => withBadges(async page => {
  const all = await ids(page), before = await boxes(page), view = await page.getAttribute(".table-svg", "viewBox");
  const from = await middle(page, all[0]), below = await middle(page, all[4]);
  await page.mouse.move(from.x, from.y);
  await page.mouse.down();
  // A little off the middle of the one below: the middle is caught.
  await page.mouse.move(from.x + 3, below.y + 40, { steps: 6 });
  await page.waitForSelector(".snap-svg path", { state: "attached" });
  assert.match(await page.textContent(".drag-says"), /0 mm to the right, .*middle of/);
  await page.mouse.up();
  await page.waitForFunction(([id, y]) => Math.abs(document.querySelector(`[data-id=${id}]`).dataset.box.split(" ")[1] - y) > 5, [all[0], before[all[0]][1]]);
  await page.waitForFunction(() => !document.querySelector(".drag-svg, .is-away"));
  const after = await boxes(page);
  assert.equal(after[all[0]][0], before[all[0]][0]);
  assert.deepEqual({ ...after, [all[0]]: 0 }, { ...before, [all[0]]: 0 });
  assert.equal(await page.getAttribute(".table-svg", "viewBox"), view);
  assert.deepEqual(await chosen(page), [all[0]]);
  // Escape gives a drag up.
  const now = await middle(page, all[0]), then = await revision(page);
  await page.mouse.move(now.x, now.y);
  await page.mouse.down();
  await page.mouse.move(now.x + 90, now.y, { steps: 4 });
  await page.keyboard.press("Escape");
  await page.mouse.up();
  assert.equal(await page.$(".drag-svg"), null);
  assert.equal(await revision(page), then);
  await page.keyboard.press("Control+z");
  await page.waitForFunction(([id, y]) => Number(document.querySelector(`[data-id=${id}]`).dataset.box.split(" ")[1]) === y, [all[0], before[all[0]][1]]);
  assert.deepEqual(page.asked.filter(a => a.endsWith("page")), []);
}));

test("arrow keys show each step at once and become one change; typed numbers move as far", () => withBadges(async page => {
  const all = await ids(page), before = await boxes(page);
  const p = await middle(page, all[2]);
  await page.mouse.click(p.x, p.y);
  await page.waitForSelector(".card h1:has-text('Badge')");
  // All in one moment, however slow the machine is: what comes after a while is a gesture of its own.
  const shown = await page.evaluate(id => {
    const press = (key, held) => document.activeElement.dispatchEvent(new KeyboardEvent("keydown", { key, bubbles: true, cancelable: true, ...held }));
    const now = () => document.querySelector(`[data-id=${id}]`).style.translate;
    for (let i = 0; i < 4; i++) press("ArrowRight");
    press("ArrowDown", { shiftKey: true });
    const first = now();
    press("ArrowLeft", { altKey: true });
    return [first, now()];
  }, all[2]);
  assert.deepEqual(shown, ["2px 5px", "1.95px 5px"]);
  await page.waitForFunction(([id, x]) => Number(document.querySelector(`[data-id=${id}]`).dataset.box.split(" ")[0]) === x + 1.95,
    [all[2], before[all[2]][0]]);
  await settled(page);
  assert.deepEqual((await boxes(page))[all[2]].slice(0, 2), [before[all[2]][0] + 1.95, before[all[2]][1] + 5]);
  // All of it was one gesture: one undo.
  await page.keyboard.press("Control+z");
  await page.waitForFunction(([id, x]) => Number(document.querySelector(`[data-id=${id}]`).dataset.box.split(" ")[0]) === x, [all[2], before[all[2]][0]]);
  await page.click("summary:has-text('Move by')");
  await page.fill("[name=right]", "2*1.5in");
  await page.keyboard.press("Enter");
  await page.waitForFunction(([id, x]) => Math.abs(document.querySelector(`[data-id=${id}]`).dataset.box.split(" ")[0] - x - 76.2) < 0.001,
    [all[2], before[all[2]][0]]);
  // The group stays open, and what was typed wrong is said.
  await page.fill("[name=right]", "far");
  await page.keyboard.press("Enter");
  await page.waitForSelector(".notice:has-text('far')");
}));

test("no step is lost while the server takes its time, whatever is chosen and moved meanwhile", () => withBadges(async page => {
  const all = await ids(page), before = await boxes(page);
  let letGo;
  const held = new Promise(done => letGo = done);
  await page.route("**/build?*handler=Move*", async route => {
    await held;
    await route.continue();
  });
  const [a, b] = [await middle(page, all[0]), await middle(page, all[5])];
  await page.mouse.click(a.x, a.y);
  const asked = page.waitForRequest("**/build?*handler=Move*");
  await page.keyboard.press("ArrowRight");
  await asked;
  // The first step is with the server now; these come while it is.
  await page.keyboard.press("ArrowRight");
  await page.mouse.click(b.x, b.y);
  await page.keyboard.press("ArrowDown");
  assert.equal(await page.$eval(`[data-id=${all[0]}]`, e => e.style.translate), "1px");
  letGo();
  const at = id => page.$eval(`[data-id=${id}]`, e => e.dataset.box.split(" ").map(Number).slice(0, 2));
  await page.waitForFunction(([id, y]) => Number(document.querySelector(`[data-id=${id}]`).dataset.box.split(" ")[1]) === y + 0.5, [all[5], before[all[5]][1]]);
  assert.deepEqual(await at(all[0]), [before[all[0]][0] + 1, before[all[0]][1]]);
  assert.deepEqual(await at(all[5]), [before[all[5]][0], before[all[5]][1] + 0.5]);
  assert.equal(await page.$eval(`[data-id=${all[0]}]`, e => e.style.translate), "");
}));
