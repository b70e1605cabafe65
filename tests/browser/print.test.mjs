import { test } from "node:test";
import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import { AxeBuilder } from "@axe-core/playwright";
import { open, Hands, signIn } from "./browser.mjs";

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

test("from nine badges in a picture to 27 printed and cut ones on two sheets in at most 8 actions", { timeout: 240_000 }, async () => {
  const { browser, page } = await open();
  try {
    const hands = new Hands(page);
    await signIn(hands, "tobias@murmeltier.example");
    hands.actions = 1;
    await page.setInputFiles("input[type=file] >> nth=0", badges(190.5));
    await page.waitForURL("**/bring-in");
    await hands.type("[name=copies]", "3");
    await page.keyboard.press("Enter");
    await page.waitForFunction(() => /3 copies/.test(document.querySelector("#slip").innerText));
    await hands.click("#slip a:has-text('Print')");
    await page.waitForSelector(".print-plates");
    const axe = async () => {
      const found = await new AxeBuilder({ page }).withTags(["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]).analyze();
      assert.deepEqual(found.violations.map(v => `${v.id}: ${v.nodes[0].html}`), []);
    };
    await axe();
    await hands.choose("[name=place]", { label: await page.locator("[name=place] option:has-text('148')").first().innerText() });
    await hands.click(".print-plates [value=brackets]");
    await page.waitForSelector(".print-grid", { timeout: 60_000 });
    assert.equal(await page.locator(".print-grid figure").count(), 2);
    await axe();
    await hands.click("button:has-text('Print all 2 sheets')");
    await page.waitForFunction(() => document.querySelectorAll(".print-grid figcaption").length === 2
      && [...document.querySelectorAll(".print-grid figcaption")].every(c => /marks read/.test(c.innerText)), null, { timeout: 60_000 });
    await hands.click("button:has-text('cut sheet 1')");
    await page.waitForFunction(() => /Finished/.test(document.querySelector("main").innerText), null, { timeout: 60_000 });
    assert.match(await page.innerText("main"), /Done as planned/);
    await hands.click("button:has-text('cut sheet 2')");
    await page.waitForFunction(() => /sheet=1/.test(location.search) && /Finished/.test(document.querySelector("main").innerText), null, { timeout: 60_000 });
    assert.match(await page.innerText("main"), /Done as planned/);
    console.log(`# actions from nine badges to 27 printed and cut ones: ${hands.actions}`);
    assert.ok(hands.actions <= 8);
    assert.match(await page.innerText("#slip"), /2 of 2 sheets done/);
    // The proof of a sheet: the print as it was seen, the cut over it, and how far it is off.
    await page.click("#slip a:has-text('Print')");
    await page.click(".print-grid a >> nth=0");
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
