import { test } from "node:test";
import assert from "node:assert/strict";
import { open, Hands, signIn, listed, downloaded, painted, settled, base } from "./browser.mjs";

test("a second person is in within seven actions of both, and out with one", async () => {
  const { browser, page } = await open();
  const hands = new Hands(page);
  try {
    await signIn(hands);
    hands.actions = 0;
    await hands.click(".rooms a:has-text('Workshop')");
    await hands.type("[name=for]", "leo@murmeltier.example");
    await hands.click("button:has-text('Make a link')");
    const link = await page.inputValue("[data-choose-all]");
    await page.waitForLoadState();
    await page.focus("[data-choose-all]");
    assert.equal(await page.evaluate(() => document.getSelection().toString() || document.activeElement.value
      .slice(document.activeElement.selectionStart, document.activeElement.selectionEnd)), link, "what is to be copied is chosen as a whole");
    const other = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
    const leo = new Hands(other);
    await other.goto(link);
    // The address is there already.
    await leo.type("[name=name]", "Leo Aumann");
    await leo.type("[name=password]", "paper and patience");
    await leo.click("button:has-text('Come in')");
    await other.waitForURL("**/dockets");
    assert.equal(await other.locator(".rooms a:has-text('Workshop')").count(), 0, "a maker sees no page of owners");
    console.log(`actions until a second person is in: ${hands.actions + leo.actions}`);
    assert.ok(hands.actions + leo.actions <= 7);
    await page.goto(base + "/workshop");
    await hands.click("tr:has-text('Leo Aumann') button:has-text('Remove')");
    await page.waitForSelector(".say.is-fine:has-text('Removed')");
    await other.goto(base + "/dockets");
    assert.match(other.url(), /sign-in/);
    assert.match(await downloaded(page, "a:has-text('Download everything')"), /^PK/);
  } finally {
    await browser.close();
  }
});

test("a docket is copied, archived, deleted and restored with one click each", async () => {
  const { browser, page } = await open();
  const hands = new Hands(page);
  try {
    await signIn(hands);
    await listed(page, "[aria-label='Copy Lantern on vellum']");
    await hands.click("[aria-label='Copy Lantern on vellum']");
    await page.waitForSelector(".notice:has-text('a copy of docket 0042')");
    await page.goto(base + "/dockets");
    await hands.click("[aria-label='Archive Lantern on vellum, copy']");
    await page.waitForSelector(".say:has-text('lies in the archive now')");
    assert.equal(await page.locator("strong:has-text('Lantern on vellum, copy')").count(), 0);
    await hands.click(".places a:has-text('Archive')");
    await hands.click("[aria-label='Take Lantern on vellum, copy out of the archive']");
    await hands.click("[aria-label='Delete Lantern on vellum, copy']");
    await hands.click("button:has-text('Restore it')");
    await page.waitForSelector("strong:has-text('Lantern on vellum, copy')");
    await hands.click("[aria-label='Delete Lantern on vellum, copy']");
    await page.waitForSelector(".say:has-text('is deleted')");
    assert.deepEqual(page.problems, []);
  } finally {
    await browser.close();
  }
});

test("what the list looks up by itself never takes the list's place", async () => {
  const { browser, page } = await open();
  try {
    await signIn(new Hands(page));
    const problem = await (await page.request.get(base + "/dockets/9999/build")).text();
    assert.match(problem, /Nothing lies here/);
    await page.route("**/weak", route => route.fulfill({ status: 404, contentType: "text/html", body: problem }));
    await Promise.all([page.waitForResponse("**/weak"), page.goto(base + "/dockets")]);
    await settled(page);
    await painted(page);
    assert.equal(await page.locator(".begin").count(), 1, await page.innerText("body"));
  } finally {
    await browser.close();
  }
});
