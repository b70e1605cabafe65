import { test } from "node:test";
import assert from "node:assert/strict";
import { open, Hands, signIn, settled, base, faults } from "./browser.mjs";

const pages = ["/dockets", "/dockets?place=archive", "/stock", "/machines", "/workshop", "/account", "/lost", "/enter/nothing",
  "/dockets/41/bring-in", "/dockets/41/build", "/dockets/41/build?piece=p1", "/dockets/41/build?line=l1",
  "/dockets/42/bring-in",
  "/dockets/41/strengthen", "/dockets/41/lay-out", "/dockets/41/run", "/dockets/41/assemble"];

test("axe finds nothing on any page, and no page says anything in the console", async () => {
  const { browser, page } = await open();
  try {
    await page.goto(base + "/sign-in");
    const found = [];
    const look = async name => {
      for (const fault of await faults(page)) found.push(`${name}: ${fault}`);
    };
    await look("/sign-in");
    await signIn(new Hands(page));
    for (const url of pages) {
      await page.goto(base + url);
      await settled(page);
      const began = Date.now();
      await look(url);
      if (process.env.SLOW) console.log(url, Date.now() - began);
    }
    // What is changed in its place.
    for (const [room, what] of [["/stock", "Ivory 300 g"], ["/machines", "Kammer 30"], ["/machines", "Knife"]]) {
      await page.goto(base + room);
      await page.click(`table.drawer a:text-is("${what}")`);
      await look(`${room}, ${what}`);
    }
    assert.deepEqual(found, []);
    assert.deepEqual(page.problems, []);
  } finally {
    await browser.close();
  }
});

test("nothing is wider than the window at 1024, and Run reads on a phone", async () => {
  const { browser, page } = await open();
  try {
    await signIn(new Hands(page));
    for (const [width, height, urls] of [[1024, 768, pages], [390, 800, ["/dockets/41/run", "/dockets/41/assemble"]]]) {
      await page.setViewportSize({ width, height });
      for (const url of urls) {
        await page.goto(base + url);
        assert.ok(await page.evaluate(() => document.documentElement.scrollWidth) <= width, `${url} at ${width}`);
      }
    }
  } finally {
    await browser.close();
  }
});

test("without scripts the stages are pages, and a remedy is a form", async () => {
  const { browser, page } = await open({ javaScriptEnabled: false });
  try {
    await signIn(new Hands(page));
    await page.goto(base + "/dockets/42/build");
    const warnings = await page.textContent(".tally.is-warn");
    await page.click(".findings .button.is-primary");
    assert.notEqual(await page.textContent(".tally >> nth=1"), warnings);
    await page.click("[data-key=undo]");
    assert.equal(await page.textContent(".tally.is-warn"), warnings);
  } finally {
    await browser.close();
  }
});
