import { test } from "node:test";
import assert from "node:assert/strict";
import { open, Hands, signIn, base, painted } from "./browser.mjs";
import { fitView, zoomView, rulerMarks } from "../../src/Falzkunst.Web/wwwroot/js/table/view.js";

test("views: fitting shows all of it, zooming keeps the point under the pointer, rulers step by 1, 2 or 5", () => {
  const home = { x: -10, y: -10, w: 168, h: 230 };
  for (const [width, height] of [[720, 700], [400, 900], [1200, 300]]) {
    const v = fitView(home, width, height, { left: 34, top: 18 });
    assert.ok(v.x <= home.x && v.y <= home.y && v.x + v.w >= home.x + home.w - 1e-9 && v.y + v.h >= home.y + home.h - 1e-9);
    assert.ok(Math.abs(v.w / width - v.h / height) < 1e-9);
    const at = { x: 40, y: 60 }, z = zoomView(v, 1.7, at, home);
    assert.ok(Math.abs((at.x - v.x) / v.w - (at.x - z.x) / z.w) < 1e-9);
  }
  // In a window of a phone that has no room beside its tools.
  const small = fitView(home, 30, 70, { left: 34, top: 58, bottom: 34 });
  assert.ok(small.w > 0 && small.h > 0 && small.w / 30 - small.h / 70 < 1e-9);
  const marks = rulerMarks(-3, 151, 700, "mm");
  assert.deepEqual(marks.slice(0, 3).map(m => m.label), ["0", "10", "20"]);
  assert.ok(Math.abs(marks[1].at - 13 / 154 * 700) < 1e-9);
});

test("the table with 500 pieces is moved and zoomed as a whole: no piece is touched, and nothing is asked of the server", async () => {
  const { browser, page } = await open();
  try {
    await signIn(new Hands(page));
    const circles = Array.from({ length: 500 }, (_, i) => `<circle cx="${10 + i % 25 * 20}" cy="${10 + Math.floor(i / 25) * 20}" r="8" fill="#2f5d46"/>`)
      .join("");
    await page.setInputFiles("input[type=file]",
      { name: "five-hundred.svg", mimeType: "image/svg+xml",
      buffer: Buffer.from(`<svg xmlns="http://www.w3.org/2000/svg" width="500mm" height="400mm" viewBox="0 0 500 400">${circles}</svg>`) });
    await page.waitForURL("**/bring-in");
    await page.waitForSelector(".ruler text");
    const before = await page.getAttribute(".table-svg", "viewBox");
    // A place on the felt, beside all pieces.
    const box = await page.locator(".table-area").boundingBox();
    const start = { x: box.x + box.width - 6, y: box.y + box.height - 6 };
    // How many frames a second that gives is for bench/editing.mjs; what a frame costs must not grow with the pieces.
    await page.evaluate(() => {
      window.touched = [];
      new MutationObserver(all => window.touched.push(...all.map(m => m.target.closest?.(".piece") ? "piece" : m.target.nodeName)))
        .observe(document.body, { subtree: true, childList: true, attributes: true });
    });
    const asked = [];
    // That somebody looks at it is told now and then.
    page.on("request", r => { if (!r.url().includes("handler=Looked")) asked.push(r.url()); });
    await page.mouse.move(start.x, start.y);
    await page.mouse.down();
    for (let i = 1; i <= 40; i++) await page.mouse.move(start.x - 4 * i, start.y - 3 * i);
    await page.mouse.up();
    await page.mouse.wheel(0, -240);
    await painted(page);
    assert.notEqual(await page.getAttribute(".table-svg", "viewBox"), before);
    const touched = await page.evaluate(() => window.touched);
    assert.ok(touched.length > 0 && !touched.includes("piece"), `${touched.filter(t => t === "piece").length} of ${touched.length} changes were of pieces`);
    assert.deepEqual(asked, []);
    // F fits again; Escape and a click on a piece choose nothing and something.
    await page.keyboard.press("f");
    await page.waitForFunction(b => document.querySelector(".table-svg").getAttribute("viewBox") === b, before);
    await page.goto(page.url().replace("bring-in", "build"));
    await page.waitForSelector(".ruler text");
    await page.click(".piece[data-name='Dark green 250'] .paper");
    await page.waitForSelector(".card h1:has-text('Dark green 250')");
    await page.keyboard.press("Escape");
    await page.waitForSelector(".looks");
    await page.keyboard.press("x");
    await page.waitForSelector(".view-pair a[aria-current]:has-text('plies apart')");
  } finally {
    await browser.close();
  }
});
