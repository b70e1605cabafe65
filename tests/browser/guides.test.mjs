import { test } from "node:test";
import assert from "node:assert/strict";
import { open, boxOnEmptyPage, Hands, signIn, settled, painted } from "./browser.mjs";
import { candidates, equalGaps, snapped } from "../../src/Falzkunst.Web/wwwroot/js/table/snapping.js";
import { gridPlaces } from "../../src/Falzkunst.Web/wwwroot/js/table/lines.js";

test("equal gaps: between two, behind a row and before one; a grid's places; margins of panels", () => {
  assert.deepEqual(equalGaps([41, 51], [[0, 20], [80, 90]]).map(c => c.at), [45]);
  assert.deepEqual(equalGaps([51, 61], [[0, 20], [25, 45]]).map(c => c.at), [50]);
  assert.deepEqual(equalGaps([2, 12], [[40, 50], [20, 33]]).map(c => c.at), [3]);
  assert.deepEqual(equalGaps([0, 10], []), []);
  assert.deepEqual(gridPlaces(1, 11, 5), [5, 10]);
  assert.deepEqual(gridPlaces(0, 1e9, 1), []);
  const box = { left: 0, top: 0, right: 100, bottom: 100 };
  const found = { ...candidates([{ name: "front panel", box, isPanel: true }]), boxes: [] };
  assert.equal(snapped({ left: 0, top: 300, right: 10, bottom: 310 }, 8.4, 0, found, 1).x.text, "margin of front panel");
  // Beside a piece of its row, a box keeps the gap of the two that lie there.
  const row = { x: [], y: [], boxes: [{ left: 0, top: 0, right: 20, bottom: 20 }, { left: 25, top: 0, right: 45, bottom: 20 }] };
  const { dx, x } = snapped({ left: 100, top: 5, right: 110, bottom: 15 }, -49.6, 0, row, 1);
  assert.deepEqual([dx, x.text], [-50, "equal gaps"]);
});

test("a guide is dragged from a ruler and catches a piece; a grid of a typed spacing catches when it is wanted", async () => {
  const { browser, page } = await open();
  try {
    await signIn(new Hands(page), "tobias@murmeltier.example");
    await boxOnEmptyPage(page, "3/2 in");
    await page.keyboard.press("Escape");
    const area = await page.locator(".table-area").boundingBox();
    const box = async () => (await page.getAttribute(".piece", "data-box")).split(" ").map(Number);
    const drag = async (from, to, end) => {
      await page.mouse.move(...from);
      await page.mouse.down();
      await page.mouse.move((from[0] + to[0]) / 2, (from[1] + to[1]) / 2, { steps: 2 });
      await page.mouse.move(...to, { steps: 4 });
      await painted(page);
      await end?.();
      await page.mouse.up();
    };
    await drag([area.x + 10, area.y + 300], [area.x + 120, area.y + 320]);
    await page.waitForSelector(".guide", { state: "attached" });
    const guide = Number((await page.getAttribute(".guide", "d")).match(/M([-\d.]+)/)[1]);
    const paper = await page.locator(".piece .paper").boundingBox(), middle = [paper.x + paper.width / 2, paper.y + paper.height / 2];
    const perMm = paper.width / 38.1, [left] = await box();
    await drag(middle, [middle[0] + (guide - left) * perMm + 4, middle[1]], async () =>
      assert.match(await page.innerText(".drag-says"), /a guide/));
    await page.waitForFunction(guide => Math.abs(Number(document.querySelector(".piece").dataset.box.split(" ")[0]) - guide) < 0.01, guide);
    await settled(page);
    // Back over its ruler it is gone.
    const at = (await page.locator(".guide").evaluate(e => e.getBoundingClientRect().left));
    await drag([at, area.y + 620], [area.x + 4, area.y + 600]);
    await page.waitForSelector(".guide", { state: "detached" });
    await page.click(".grid-box summary");
    await page.fill(".grid-box [name=step]", "1/2 in");
    await page.click(".grid-box [name=catches]");
    await page.waitForSelector(".grid", { state: "attached" });
    await page.waitForFunction(() => document.querySelector(".grid-box [name=step]").value === "12.7 mm");
    await page.click(".grid-box summary");
    const now = await page.locator(".piece .paper").boundingBox(), [was] = await box();
    const next = Math.ceil((was + 3) / 12.7) * 12.7;
    await drag([now.x + now.width / 2, now.y + now.height / 2], [now.x + now.width / 2 + (next - was) * perMm - 3, now.y + now.height / 2]);
    await page.waitForFunction(next => Math.abs(Number(document.querySelector(".piece").dataset.box.split(" ")[0]) - next) < 0.01, next);
    assert.deepEqual(page.problems, []);
  } finally {
    await browser.close();
  }
});
