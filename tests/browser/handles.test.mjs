import { test } from "node:test";
import assert from "node:assert/strict";
import { open, boxOnEmptyPage, Hands, signIn, settled } from "./browser.mjs";
import { sized, turned } from "../../src/Falzkunst.Web/wwwroot/js/table/handles.js";

test("handles: in one ratio from a corner, loose with Shift, one length from an edge, never nothing, and edges are caught", () => {
  const box = { left: 10, top: 20, right: 50, bottom: 40 }, none = { x: [], y: [] };
  const drag = (place, to, how = {}) => {
    const { width, height } = sized(box, place, to, { found: none, within: 1, ...how });
    return [width, height];
  };
  assert.deepEqual(drag([2, 2], { x: 90, y: 45 }), [80, 40]);
  assert.deepEqual(drag([2, 2], { x: 90, y: 45 }, { loose: true }), [80, 25]);
  assert.deepEqual(drag([0, 1], { x: -10, y: 99 }), [60, 20]);
  assert.deepEqual(drag([1, 0], { x: 0, y: 300 }), [40, 0.1]);
  const found = { x: [{ at: 70, text: "right edge of Sky" }], y: [] };
  assert.deepEqual(sized(box, [2, 1], { x: 70.6, y: 0 }, { found, within: 1 }), { width: 60, height: 20, caught: [found.x[0]] });
  assert.deepEqual(drag([2, 1], { x: 70.6, y: 0 }, { found, free: true }).map(n => +n.toFixed(3)), [60.6, 20]);
  // From the middle both sides go, and another piece's width is caught.
  assert.deepEqual(drag([2, 1], { x: 60, y: 0 }, { centred: true }), [60, 20]);
  assert.deepEqual(drag([2, 1], { x: 82.4, y: 0 }, { found: { ...none, boxes: [{ left: 0, top: 0, right: 72, bottom: 9 }] } }), [72, 20]);
  assert.equal(turned({ x: 0, y: 0 }, { x: 0, y: -9 }, { x: 9, y: 0 }, 0), 90);
  // From the middle both sides go, and another piece's width is caught.
  assert.deepEqual(drag([2, 1], { x: 60, y: 0 }, { centred: true }), [60, 20]);
  assert.deepEqual(drag([2, 1], { x: 82.4, y: 0 }, { found: { ...none, boxes: [{ left: 0, top: 0, right: 72, bottom: 9 }] } }), [72, 20]);
  assert.equal(turned({ x: 0, y: 0 }, { x: -9, y: 1 }, { x: -9, y: -2 }, 15), 15);
});

test("what is chosen is sized and turned by its handles, with its numbers at hand; Escape leaves it as it was", async () => {
  const { browser, page } = await open();
  try {
    await signIn(new Hands(page), "tobias@murmeltier.example");
    await boxOnEmptyPage(page, "60");
    const box = async () => (await page.getAttribute(".piece", "data-box")).split(" ").map(Number);
    const [left, top, width] = await box();
    const knob = async which => {
      const b = await page.locator(`.handle[data-handle="${which}"] .knob`).boundingBox();
      return [b.x + b.width / 2, b.y + b.height / 2];
    };
    const drag = async (which, dx, dy, end) => {
      const [x, y] = await knob(which);
      await page.mouse.move(x, y);
      await page.mouse.down();
      await page.mouse.move(x + dx / 2, y + dy / 2, { steps: 3 });
      await page.mouse.move(x + dx, y + dy, { steps: 3 });
      await page.waitForSelector(".drag-says");
      await end?.();
      await page.mouse.up();
      await page.waitForFunction(() => !document.querySelector(".drag-svg"));
      await settled(page);
    };
    // Given up: nothing has happened.
    await drag(4, 60, 60, async () => {
      assert.notEqual(await page.inputValue("#size [name=width]"), "");
      await page.keyboard.press("Escape");
    });
    assert.deepEqual(await box(), [left, top, width, width]);
    // With Ctrl its middle stays.
    await page.keyboard.down("Control");
    await drag(3, 30, 0);
    await page.keyboard.up("Control");
    const [cl, , cw] = await box();
    assert.ok(cw > width + 5 && Math.abs(cl + cw / 2 - left - width / 2) < 0.01, `${cl} ${cw}`);
    await page.keyboard.press("Control+z");
    await page.waitForFunction(w => Number(document.querySelector(".piece").dataset.box.split(" ")[2]) === w, width);
    await settled(page);
    // From the lower right corner the upper left one stays, and the ratio.
    await drag(4, 80, 80);
    const [l, t, w, h] = await box();
    assert.ok(Math.abs(l - left) < 0.01 && Math.abs(t - top) < 0.01 && w > width + 5 && Math.abs(w - h) < 0.01, `${[l, t, w, h]}`);
    // Only wider, from its right edge.
    await drag(3, 40, 0);
    const [, , wider, high] = await box();
    assert.ok(wider > w + 2 && Math.abs(high - h) < 0.01);
    // A number that is typed in the middle of it stands in its field, and Enter makes it.
    await drag(4, 50, 50, () => page.keyboard.type("75"));
    assert.equal(await page.inputValue("#size [name=width]"), "75");
    assert.deepEqual((await box()).slice(2), [wider, high]);
    await page.keyboard.press("Enter");
    await page.waitForFunction(() => Math.abs(Number(document.querySelector(".piece").dataset.box.split(" ")[2]) - 75) < 0.01);
    await settled(page);
    assert.ok(Math.abs((await box())[0] - left) < 0.01, "its upper left corner stays");
    // Two of its corners are chosen on the table; what rounding them gives is seen before.
    await page.click("#corners-and-holes > summary");
    await page.fill("#corners-and-holes [name=by]", "9");
    await page.click("[data-corners]");
    await page.waitForSelector(".corner");
    assert.equal(await page.locator(".corner").count(), 4);
    await page.locator(".corner").nth(0).click();
    await page.locator(".corner").nth(1).focus();
    await page.keyboard.press("Space");
    await page.hover("#corners-and-holes button[value=round]");
    await page.waitForSelector(".tint-svg .comes");
    // What one corner gives may have been asked for a moment before.
    await page.waitForFunction(() => /2 corners rounded by 9 mm/i.test(document.querySelector("#corners-and-holes .previewed").innerText));
    await page.click("#corners-and-holes button[value=round]");
    await page.waitForFunction(() => (document.querySelector(".piece .paper").getAttribute("d").match(/c/gi) ?? []).length > 0);
    await settled(page);
    assert.match(await page.innerText(".treated"), /2 corners rounded/i);
    await page.keyboard.down("Shift");
    await drag("turn", 150, 40);
    await page.keyboard.up("Shift");
    const turn = await page.getAttribute(".piece", "transform");
    assert.match(turn ?? "", /matrix|rotate/);
    const cos = Number(turn.match(/[-\d.]+/)[0]), degrees = Math.acos(Math.min(1, cos)) * 180 / Math.PI;
    assert.ok(Math.abs(degrees / 15 - Math.round(degrees / 15)) < 0.01 && degrees > 10, `${turn}`);
    assert.deepEqual(page.problems, []);
  } finally {
    await browser.close();
  }
});
