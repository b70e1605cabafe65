import { test } from "node:test";
import assert from "node:assert/strict";
import { deflateSync } from "node:zlib";
import { open, Hands, signIn, settled, base } from "./browser.mjs";

const card = (at, extra = "") =>
  Buffer.from(`<!-- drawn by Hut Press --><svg xmlns='http://www.w3.org/2000/svg' width='148mm' height='105mm' viewBox='0 0 148 105'><rect width='148' `
    + `height='105' fill='#f4ead2'/>
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
  return Buffer.concat([Buffer.from([0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10]), chunk("IHDR", facts), chunk("IDAT", deflateSync(rows)),
    chunk("IEND", Buffer.alloc(0))]);
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

test("from dropping a file to all operations right: 2 actions, and 1 when its source is known", () => atDockets(async (page, hands) => {
  hands.actions++;
  await bring(page, "menu.svg", "image/svg+xml", card(30));
  await page.waitForURL("**/bring-in");
  // The curve on the card came in as drawn by itself.
  await page.waitForSelector(".look:has-text('purple') .op-draw");
  await hands.choose(".look:has-text('green') select", "perforate");
  await page.waitForSelector(".look:has-text('green') .op-perforate");
  console.log(`actions to all operations right: ${hands.actions}`);
  assert.ok(hands.actions <= 2);
  await page.click("summary:has-text('Rules of this source')");
  await page.fill("[name=name]", "Hut Press");
  await page.click("button:has-text('Keep as rules')");
  await page.waitForSelector(".notice:has-text('Kept.')");
  await page.goto(base + "/dockets");
  await bring(page, "second.svg", "image/svg+xml", card(40));
  await page.waitForURL("**/bring-in");
  await page.waitForSelector(".say:has-text('The rules of “Hut Press” were applied to 1 look')");
  assert.equal(await page.$$eval(".look .op-draw, .look .op-perforate", e => e.length), 2);
}));

test("a picture is traced, and traced anew while one looks", () => atDockets(async page => {
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

test("pasting the text of a drawing brings it in", () => atDockets(async page => {
  await page.evaluate(text => {
    const data = new DataTransfer();
    data.setData("text/plain", text);
    document.body.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true }));
  }, card(35).toString());
  await page.waitForURL("**/bring-in");
  await page.waitForSelector(".file-line:has-text('pasted.svg')");
}));

test("a sheet of sayings is taken apart: some are kept, the rest is left out and put back", () => atDockets(async page => {
  const saying = (x, y) => [0, 4, 8]
    .map(d => `<path d='M${x + d} ${y}C${x + d + 3} ${y - 3} ${x + d} ${y + 8} ${x + d + 3} ${y + 5}' stroke='#114' fill='none'/>`).join("");
  const sheet = `<svg xmlns='http://www.w3.org/2000/svg' width='200mm' height='120mm' viewBox='0 0 200 `
    + `120'>${[10, 50, 90, 130].flatMap(x => [10, 40, 70].map(y => saying(x, y))).join("")}</svg>`;
  await bring(page, "sayings.svg", "image/svg+xml", Buffer.from(sheet));
  await page.waitForURL("**/bring-in");
  await page.click("text=Take only some of them");
  await page.waitForSelector(".contact");
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

test("a picture is previewed while a slider moves, taken apart by touch, and cropped", () => atDockets(async page => {
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

test("pointing at a look, or going to it with the keyboard, lights up what has it", () => atDockets(async page => {
  await bring(page, "menu.svg", "image/svg+xml", card(30, "<circle cx='120' cy='60' r='9' fill='#0cc'/>"));
  await page.waitForURL("**/bring-in");
  const lit = () => page.$$eval(".table-svg .lit", all => all.map(e => e.querySelector("path[id]").id));
  assert.deepEqual(await lit(), []);
  await page.hover(".look:has-text('purple')");
  const [purple] = await lit();
  assert.match(purple, /^line-l/);
  await page.hover(".look:has-text('1 piece') >> nth=1");
  assert.equal((await lit()).length, 1);
  await page.hover("h1");
  assert.deepEqual(await lit(), []);
  // Going there may scroll the card under the mouse.
  await page.mouse.move(5, 5);
  await page.focus(".look:has-text('green') a");
  const [green] = await lit();
  assert.ok(green.startsWith("line-l") && green !== purple);
  // Each row has a picture of its own.
  assert.equal(await page.$$eval(".look-picture path[d]", p => p.length), await page.$$eval(".look", l => l.length));
}));

test("sending files shows how far it is and can be stopped; too large a file is told before it is sent", () => atDockets(async page => {
  // The server takes its time: the request waits here until it is let go.
  let letGo;
  const held = new Promise(done => letGo = done);
  await page.route("**/dockets", async route => {
    if (route.request().method() === "POST") await held;
    await route.continue().catch(() => {});
  });
  await bring(page, "menu.svg", "image/svg+xml", card(30));
  await page.waitForSelector(".sending:visible");
  assert.match(await page.textContent(".sending p"), /menu\.svg/);
  await page.click(".sending button");
  await page.waitForSelector("text=Stopped. Nothing was brought in.");
  assert.equal(await page.isVisible(".sending"), false);
  letGo();
  // htmx tells the console that it was stopped, which is what was wanted.
  page.problems.length = 0;
  await page.unroute("**/dockets");
  await page.evaluate(() => document.querySelector("form.drop").dataset.most = "100");
  await bring(page, "menu.svg", "image/svg+xml", card(30));
  await page.waitForSelector("text=is larger than");
  assert.equal(new URL(page.url()).pathname, "/dockets");
  await page.evaluate(() => document.querySelector("form.drop").dataset.most = "5e7");
  await bring(page, "menu.svg", "image/svg+xml", card(30));
  await page.waitForURL("**/bring-in");
}));

test("what is wrong with a file is said where it was dropped", () => atDockets(async page => {
  await bring(page, "menu.svg", "image/svg+xml", Buffer.from("this is only text"));
  await page.waitForSelector(".say.is-stop:has-text('“menu.svg” was not brought in')");
  await bring(page, "menu.svg", "image/svg+xml", card(30));
  await page.waitForURL("**/bring-in");
}));

test("a folder that is dropped goes with all that is in it, and its name tells the source", () => atDockets(async page => {
  const files = [["Hut set/card.svg", card(30).toString()], ["Hut set/.hidden.svg", "no"], ["Hut set/inner/more.svg", card(44).toString()]];
  await page.evaluate(files => {
    // As a browser gives a dropped folder.
    const folder = (name, inside) => ({ name, isFile: false, createReader: () => ({ left: [inside, []], readEntries(done) { done(this.left.shift()); } }) });
    const file = (path, text) => ({ name: path.split("/").pop(), isFile: true,
      file: done => done(new File([text], path.split("/").pop(), { type: "image/svg+xml" })) });
    const [a, b, c] = files;
    const set = folder("Hut set", [file(...a), file(...b), folder("inner", [file(...c)])]);
    const event = new Event("drop", { bubbles: true, cancelable: true });
    Object.defineProperty(event, "dataTransfer", { value: { items: [{ webkitGetAsEntry: () => set }], files: [] } });
    document.querySelector("form.drop").dispatchEvent(event);
  }, files);
  await page.waitForURL("**/bring-in");
  assert.deepEqual(await page.$$eval(".file-line a", all => all.map(a => a.textContent)), ["card.svg", "more.svg"]);
}));

test("a piece is chosen on the table, explained, left out with a key, and everything is spread out and closed again", () => atDockets(async page => {
  await bring(page, "menu.svg", "image/svg+xml", card(30, "<circle cx='120' cy='60' r='9' fill='#0cc'/><circle cx='90' cy='80' r='9' fill='#0cc'/>"));
  await page.waitForURL("**/bring-in");
  const outlines = () => page.$$eval(".table-svg .paper", all => all.map(p => p.getAttribute("d") + (p.closest(".ply").getAttribute("transform") ?? "")));
  const before = await outlines();
  await page.keyboard.press("x");
  await page.waitForSelector(".ply[transform]");
  await settled(page);
  assert.notDeepEqual(await outlines(), before);
  await page.keyboard.press("x");
  await page.waitForFunction(() => !document.querySelector(".ply[transform]"));
  await settled(page);
  assert.deepEqual(await outlines(), before);
  await page.locator(".table-svg .piece .paper").nth(1).click();
  await page.waitForSelector(".card .say:has-text('A filled shape')");
  await page.waitForSelector("button:has-text('Leave out all 2 of this look')");
  await settled(page);
  await page.keyboard.press("Delete");
  await page.waitForFunction(() => document.querySelectorAll(".table-svg .paper").length === 2);
  await settled(page);
  await page.click("button:has-text('Put back')");
  await page.waitForFunction(() => document.querySelectorAll(".table-svg .paper").length === 3);
  await settled(page);
  assert.deepEqual((await outlines()).sort(), before.sort());
}));
