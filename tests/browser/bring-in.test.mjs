import { test } from "node:test";
import assert from "node:assert/strict";
import { deflateSync } from "node:zlib";
import { open, Hands, signIn, settled, base } from "./browser.mjs";

const card = (at, extra = "") => Buffer.from(`<!-- drawn by Hut Press --><svg xmlns='http://www.w3.org/2000/svg' width='148mm' height='105mm' viewBox='0 0 148 105'><rect width='148' height='105' fill='#f4ead2'/>
<path d='M${at} 20C60 10 70 40 90 20' stroke='#6b3fa0' fill='none'/><path d='M20 ${at}L40 80' stroke='#00a000' fill='none'/>${extra}</svg>`);

/** A PNG of a dark ring on white, anti-aliased. */
function ring(size) {
  const rows = Buffer.alloc(size * (size + 1));
  for (let y = 0; y < size; y++) {
    for (let x = 0; x < size; x++) {
      const d = Math.hypot(x + 0.5 - size / 2, y + 0.5 - size / 2);
      const ink = Math.min(1, Math.max(0, size * 0.4 - d + 0.5)) * Math.min(1, Math.max(0, d - size * 0.2 + 0.5));
      rows[y * (size + 1) + 1 + x] = 255 - 235 * ink;
    }
  }

  const table = Array.from({ length: 256 }, (_, n) => Array.from({ length: 8 }).reduce(c => (c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1), n));
  const crc = b => (b.reduce((c, x) => table[(c ^ x) & 255] ^ (c >>> 8), -1) ^ -1) >>> 0;
  const chunk = (type, data) => {
    const head = Buffer.alloc(4), tail = Buffer.alloc(4), body = Buffer.concat([Buffer.from(type), data]);
    head.writeUInt32BE(data.length);
    tail.writeUInt32BE(crc(body));
    return Buffer.concat([head, body, tail]);
  };
  const facts = Buffer.alloc(13);
  facts.writeUInt32BE(size, 0);
  facts.writeUInt32BE(size, 4);
  facts.set([8, 0, 0, 0, 0], 8);
  return Buffer.concat([Buffer.from([0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10]), chunk("IHDR", facts), chunk("IDAT", deflateSync(rows)), chunk("IEND", Buffer.alloc(0))]);
}

async function atDockets(work) {
  const { browser, page } = await open();
  try {
    const hands = new Hands(page);
    await signIn(hands, "tobias@murmeltier.example");
    hands.actions = 0;
    await work(page, hands);
    assert.deepEqual(page.problems, []);
  } finally {
    await browser.close();
  }
}

const bring = (page, name, mimeType, buffer) => page.setInputFiles("main input[type=file]", { name, mimeType, buffer });

test("from dropping a file to all operations right: 3 actions, and 1 when its source is known", { timeout: 90_000 }, () => atDockets(async (page, hands) => {
  hands.actions++;
  await bring(page, "menu.svg", "image/svg+xml", card(30));
  await page.waitForURL("**/bring-in");
  await hands.choose(".look:has-text('purple') select", "draw");
  await page.waitForSelector(".look:has-text('purple') .op-draw");
  await hands.choose(".look:has-text('green') select", "perforate");
  await page.waitForSelector(".look:has-text('green') .op-perforate");
  console.log(`actions to all operations right: ${hands.actions}`);
  assert.ok(hands.actions <= 3);
  await page.click("summary:has-text('Rules of this source')");
  await page.fill("[name=name]", "Hut Press");
  await page.click("button:has-text('Keep as rules')");
  await page.waitForSelector(".notice:has-text('Kept.')");
  await page.goto(base + "/dockets");
  await bring(page, "second.svg", "image/svg+xml", card(40));
  await page.waitForURL("**/bring-in");
  await page.waitForSelector(".say:has-text('The rules of “Hut Press” were applied to 2 looks')");
  assert.equal(await page.$$eval(".look .op-draw, .look .op-perforate", e => e.length), 2);
}));

test("a picture is traced, and traced anew while one looks", { timeout: 90_000 }, () => atDockets(async page => {
  await bring(page, "ring.png", "image/png", ring(400));
  await page.waitForURL("**/bring-in");
  await page.waitForSelector(".paper");
  const holes = () => page.$eval(".paper", p => p.getAttribute("d").match(/Z/gi).length);
  assert.equal(await holes(), 2);
  await page.click("label:has-text('outer edge')");
  await page.waitForSelector("[name=border]");
  assert.equal(await holes(), 1);
  const width = () => page.$eval(".paper", p => p.getBBox().width);
  const before = await width();
  await page.fill("[name=border]", "3 mm");
  await page.press("[name=border]", "Tab");
  await page.waitForFunction(w => Math.abs(document.querySelector(".paper").getBBox().width - w - 6) < 0.1, before);
  await settled(page);
  await page.click("[data-key=undo]");
  await page.waitForFunction(w => Math.abs(document.querySelector(".paper").getBBox().width - w) < 0.1, before);
}));

test("pasting the text of a drawing brings it in", { timeout: 60_000 }, () => atDockets(async page => {
  await page.evaluate(text => {
    const data = new DataTransfer();
    data.setData("text/plain", text);
    document.body.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true }));
  }, card(35).toString());
  await page.waitForURL("**/bring-in");
  await page.waitForSelector(".file-line:has-text('pasted.svg')");
}));

test("a sheet of sayings is taken apart: some are kept, the rest is left out and put back", { timeout: 60_000 }, () => atDockets(async page => {
  const saying = (x, y) => [0, 4, 8].map(d => `<path d='M${x + d} ${y}C${x + d + 3} ${y - 3} ${x + d} ${y + 8} ${x + d + 3} ${y + 5}' stroke='#114' fill='none'/>`).join("");
  const sheet = `<svg xmlns='http://www.w3.org/2000/svg' width='200mm' height='120mm' viewBox='0 0 200 120'>${[10, 50, 90, 130].flatMap(x => [10, 40, 70].map(y => saying(x, y))).join("")}</svg>`;
  await bring(page, "sayings.svg", "image/svg+xml", Buffer.from(sheet));
  await page.waitForURL("**/bring-in");
  await page.click("summary:has-text('Separate designs on this page')");
  assert.equal(await page.$$eval(".contact", c => c.length), 12);
  await page.click(".contact >> nth=0");
  await page.click(".contact >> nth=5");
  await page.click("button:has-text('Keep what is chosen')");
  await page.waitForSelector("summary:has-text('Left out')");
  assert.equal(await page.$$eval(".table-svg .line", l => l.length), 6);
  await settled(page);
  await page.click("button:has-text('Put back')");
  await page.waitForFunction(() => document.querySelectorAll(".table-svg .line").length === 36);
}));

test("a picture is previewed while a slider moves, taken apart by touch, and cropped", { timeout: 90_000 }, () => atDockets(async page => {
  await bring(page, "ring.png", "image/png", ring(240));
  await page.waitForURL("**/bring-in");
  await page.locator("input[name=threshold]").evaluate(slider => {
    slider.value = 90;
    slider.dispatchEvent(new Event("input", { bubbles: true }));
  });
  await page.waitForSelector(".is-tracing .trace-preview .area");
  await page.click(".view-pair >> text=picture");
  await page.waitForSelector(".is-picture .trace-preview .area");
  const onPicture = (x, y) => page.locator(".trace-preview").evaluate((g, [px, py]) => {
    const p = new DOMPoint(+g.dataset.left + px * g.dataset.mm, +g.dataset.top + py * g.dataset.mm).matrixTransform(g.getScreenCTM());
    return [p.x, p.y];
  }, [x, y]);
  await page.mouse.click(...await onPicture(120.5, 48.5));
  await page.waitForSelector(".taken");
  assert.equal(await page.inputValue("input[name=touched]"), "120, 48");
  await settled(page);
  await page.keyboard.press("Control+z");
  await page.waitForFunction(() => document.querySelector("input[name=touched]").value === "");
  await settled(page);
  await page.click("text=Crop");
  await page.mouse.move(...await onPicture(120, 0));
  await page.mouse.down();
  await page.mouse.move(...await onPicture(200, 200), { steps: 4 });
  await page.mouse.up();
  await page.waitForFunction(() => document.querySelector("input[name=crop]").value !== "");
  const [left, , width] = (await page.inputValue("input[name=crop]")).split(",").map(Number);
  assert.ok(Math.abs(left - 120) <= 2 && Math.abs(width - 80) <= 2, `cropped at ${left}, ${width} wide`);
  await page.waitForSelector(".outside");
}));
