import { test } from "node:test";
import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import { open, Hands, signIn, settled, downloaded, boxOnEmptyPage, faults } from "./browser.mjs";

/** The badges of the demo in a file that says how large they are: so many pixels in an inch (PNG, 11.3.5.3). */
function badges(perInch) {
  const png = readFileSync(new URL("../../demo/hut-badges.png", import.meta.url));
  const chunk = Buffer.alloc(21);
  chunk.writeUInt32BE(9, 0);
  chunk.write("pHYs", 4, "latin1");
  for (const at of [8, 12]) chunk.writeUInt32BE(Math.round(perInch / 0.0254), at);
  chunk[16] = 1;
  let crc = ~0;
  for (const byte of chunk.subarray(4, 17)) {
    crc ^= byte;
    for (let k = 0; k < 8; k++) crc = crc & 1 ? crc >>> 1 ^ 0xedb88320 : crc >>> 1;
  }
  chunk.writeUInt32BE(~crc >>> 0, 17);
  return { name: "hut-badges.png", mimeType: "image/png", buffer: Buffer.concat([png.subarray(0, 33), chunk, png.subarray(33)]) };
}

test("from nine badges in a picture to 36 printed and cut ones on two sheets in at most 8 actions", async () => {
  const { browser, page } = await open();
  try {
    const hands = new Hands(page);
    await signIn(hands, "tobias@murmeltier.example");
    hands.actions = 1;
    await page.setInputFiles("input[type=file] >> nth=0", badges(190.5));
    await page.waitForURL("**/bring-in");
    await hands.type("[name=copies]", "4");
    await page.keyboard.press("Enter");
    await page.waitForFunction(() => /4 copies/.test(document.querySelector("#slip").innerText));
    await hands.click("#slip a:has-text('Print')");
    await page.waitForSelector(".print-plates");
    const axe = async () => assert.deepEqual(await faults(page), []);
    await axe();
    await hands.choose("[name=place]", { label: await page.locator("[name=place] option:has-text('148')").first().innerText() });
    await hands.click(".print-plates [value=brackets]");
    await page.waitForSelector(".print-grid");
    assert.equal(await page.locator(".print-grid figure").count(), 2);
    await axe();
    await hands.click("button:has-text('Print all 2 sheets')");
    await page.waitForFunction(() => document.querySelectorAll(".print-grid figcaption").length === 2
      && [...document.querySelectorAll(".print-grid figcaption")].every(c => /marks read/.test(c.innerText)));
    await hands.click("button:has-text('cut sheet 1')");
    await page.waitForFunction(() => /Finished/.test(document.querySelector("main").innerText));
    assert.match(await page.innerText("main"), /Done as planned/);
    await hands.click("button:has-text('cut sheet 2')");
    await page.waitForFunction(() => /sheet=1/.test(location.search) && /Finished/.test(document.querySelector("main").innerText));
    assert.match(await page.innerText("main"), /Done as planned/);
    console.log(`# actions from nine badges to 36 printed and cut ones: ${hands.actions}`);
    assert.ok(hands.actions <= 8);
    assert.match(await page.innerText("#slip"), /2 of 2 sheets done/);
    await page.click("#slip a:has-text('Print')");
    await page.waitForSelector(".print-grid");
    await page.evaluate(() => document.querySelectorAll("#docket details").forEach(d => d.open = true));
    for (const file of ["print.pdf", "test-page.pdf", "calibration.pdf"]) {
      assert.match(await downloaded(page, `a[href$='/${file}']`), /^%PDF/, file);
      assert.ok(await page.locator(".print-grid").isVisible(), `the page stays after ${file}`);
    }
    // The proof of a sheet: the print as it was seen, the cut over it, and how far it is off.
    // The second click comes while the page of the first is fetched: it is not lost with the page that it was on.
    await page.evaluate(() => {
      document.querySelector("#slip a[href$='/print']").click();
      document.querySelector(".print-grid a").click();
    });
    await page.waitForSelector(".proof-cut");
    assert.match(await page.innerText(".card"), /The cut lies on the print, and no white would be left/);
    const most = Number((await page.innerText(".card")).match(/(0\.\d+) mm at most/)[1]);
    assert.ok(most > 0 && most < 0.15, `${most}`);
    await axe();
    assert.deepEqual(page.problems, []);
  } finally {
    await browser.close();
  }
});

test("a pattern fills a piece, is dragged, sized by its handle and recoloured by a colour that is picked, by mouse", async () => {
  const { browser, page } = await open();
  try {
    await signIn(new Hands(page));
    await boxOnEmptyPage(page, "90");
    await page.click("#fill > summary");
    await page.click("#fill [value=Checks]");
    await page.waitForSelector(".is-print");
    await settled(page);
    await page.click("#prints a");
    await page.waitForSelector(".card h1:has-text('Checks')");
    const tile = async () => (await page.getAttribute(".is-print", "data-box")).split(" ").map(Number);
    const [left, top, wide] = await tile();
    const paper = await page.locator(".piece .paper").first().boundingBox(), perMm = paper.width / 90;
    const drag = async (x, y, dx, dy) => {
      await page.mouse.move(x, y);
      await page.mouse.down();
      await page.mouse.move(x + dx / 2, y + dy / 2, { steps: 3 });
      await page.mouse.move(x + dx, y + dy, { steps: 3 });
      await page.mouse.up();
      await settled(page);
    };
    await page.keyboard.down("Alt");
    await drag(paper.x + paper.width / 2, paper.y + paper.height / 2, 5 * perMm, 3 * perMm);
    await page.keyboard.up("Alt");
    const moved = await tile();
    assert.ok(Math.abs(moved[0] - left - 5) < 0.5 && Math.abs(moved[1] - top - 3) < 0.5, `${moved} from ${left} ${top}`);
    const corner = await page.locator("[data-handle='4'] .knob").boundingBox();
    await drag(corner.x + corner.width / 2, corner.y + corner.height / 2, 10 * perMm, 10 * perMm);
    assert.ok((await tile())[2] - moved[2] > 5, `${await tile()} from ${moved}, ${wide} wide`);
    assert.match(await page.innerText(".card .facts"), /a tile is\s+(2[5-9]|3\d)/);
    // A colour of the table goes into the field, and what is clicked is not chosen.
    const field = page.locator("#fill [name=figure]"), was = await field.inputValue();
    await page.click("#fill [data-pick] >> nth=0");
    await page.mouse.click(paper.x + 3, paper.y + paper.height - 3);
    await page.waitForFunction(w => document.querySelector("#fill [name=figure]").value !== w || document.activeElement?.name === "figure", was);
    assert.match(await field.inputValue(), /^#(0f5c6b|fbf8f2)$/);
    assert.match(await page.innerText(".card h1"), /Checks/);
    assert.deepEqual(await faults(page), []);
    assert.deepEqual(page.problems, []);
  } finally {
    await browser.close();
  }
});
