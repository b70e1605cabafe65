// Takes the pictures of the main views from fresh demo data. Usage, while ./start is running on a new FALZKUNST_DATA: node docs/screenshots/take.mjs [address]
// [address of --own]
import { fileURLToPath } from "node:url";
import { dirname, join } from "node:path";

if (process.argv[2]) process.env.FALZKUNST_URL = process.argv[2];
const { open, Hands, signIn, base } = await import("../../tests/browser/browser.mjs");
const here = dirname(fileURLToPath(import.meta.url));
const { browser, page } = await open();
const shot = async (name, url) => {
  if (url) await page.goto(base + url);
  await page.evaluate(() => document.fonts.ready);
  // What is looked at in the background, or worked out by and by, is there; some of it is asked for when it is seen.
  await page.evaluate(() => { scrollTo(0, document.body.scrollHeight); setTimeout(() => scrollTo(0, 0), 100); });
  await page.waitForFunction(() => !document.querySelector("[hx-get$='/weak'], .plate-waits[hx-get]"));
  await page.waitForTimeout(400);
  await page.screenshot({ path: join(here, `${name}.png`) });
};
await signIn(new Hands(page));
await shot("dockets", "/dockets");
await shot("bring-in", "/dockets/43/bring-in");
await shot("contact-sheet", "/dockets/45/bring-in?view=parts");
await shot("tracing", "/dockets/44/bring-in");
await shot("build", "/dockets/41/build");
await page.waitForSelector(".tally:has-text('0 stops')");
await page.waitForSelector(".look:has-text('in “words”') .op-draw");
const middle = async (name, n = 0) => {
  const box = await page.locator(`.piece[data-name^="${name}"] .paper`).nth(n).boundingBox();
  return [box.x + box.width / 2, box.y + box.height / 2];
};
await page.keyboard.press("/");
await page.keyboard.type("near ridge");
await page.keyboard.press("Enter");
await page.waitForSelector(".card h1:has-text('Near ridge')");
await shot("piece");
await page.goto(base + "/dockets/41/build");
await page.waitForSelector(".look");
await page.keyboard.down("Shift");
for (const name of ["Pines", "Hut"]) await page.mouse.click(...await middle(name));
await page.keyboard.up("Shift");
await page.waitForSelector("#together .plate");
await page.evaluate(() => { document.querySelector(".card").scrollTop = 240; });
await shot("together");
await page.keyboard.press("Escape");
await shot("apart", "/dockets/41/build?view=apart");
// From nothing: a base, a window, and words beside it.
await page.goto(base + "/dockets");
await page.click(".begin button:has-text('Start with this base')");
await page.waitForSelector(".ruler text");
await page.click("#add-shape > summary");
await page.fill("#add-shape [name=width]", "50");
await page.click("#add-shape [value=hole]");
await page.click("#add-shape [value=ellipse]");
await page.waitForSelector(".ring");
await page.click("#write > summary");
await page.fill("#write [name=text]", "with thanks\nfrom the hut");
await page.click("#write button:has-text('Write it')");
await page.waitForSelector(".handle");
await page.mouse.move(700, 660);
await shot("nothing");
await page.goto(base + "/dockets");
await page.setInputFiles("input[type=file]", join(here, "..", "..", "tests", "cases", "messy", "questions.svg"));
await page.waitForSelector(".doubt");
await page.hover(".plate >> nth=1");
await shot("question");
await page.goto(base + "/dockets/41/strengthen?place=4");
await page.waitForSelector("#strengths .plate");
await shot("strengthen");
await page.goto(base + "/dockets/41/lay-out");
await page.click("button:has-text('Lay out')");
await page.waitForSelector("figure.sheet", { timeout: 60_000 });
await shot("lay-out");
await page.click("a:has-text('Go on to Run')");
await page.click("button:has-text('Run sheet 1')");
await page.waitForSelector("button:has-text('Done, go on')");
await shot("run");
for (;;) {
  const next = await page.waitForSelector("button:has-text('Done, go on'), p.say.is-fine", { timeout: 60_000 });
  if (await next.evaluate(e => e.tagName) === "P") break;
  const asked = await page.textContent(".ask");
  await next.click();
  await page.waitForFunction(t => document.querySelector(".ask")?.textContent !== t, asked);
}
await shot("run-done");
// Badges: on marks, printed by the stand-in, and read.
await page.goto(base + "/dockets/44/print");
await page.click(".finding-remedy, button:has-text('It is 152.4')");
await page.waitForFunction(() => !/size is not settled/.test(document.querySelector("#slip").innerText));
await page.click(".print-plates [value=brackets]");
await page.waitForSelector(".print-sheet", { timeout: 60_000 });
await page.click("button:has-text('read its marks')");
await page.waitForSelector(".proof-cut", { timeout: 60_000 });
await page.waitForFunction(() => [...document.querySelectorAll(".print-sheet image")].length > 0);
await page.waitForTimeout(1500);
await shot("print");
await shot("stock", "/stock");
await page.goto(base + "/workshop");
await page.fill("[name=for]", "leo@murmeltier.example");
await page.click("button:has-text('Make a link')");
await shot("workshop");
await shot("machines", "/machines");
// The first page of a workshop of one's own, from a second address: ./start --own on a new FALZKUNST_DATA.
if (process.argv[3]) {
  await page.goto(process.argv[3] + "/first");
  await shot("first");
}
await browser.close();
