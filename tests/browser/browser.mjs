// A browser for the tests: headless Chromium from Debian's packages, and the ways through the application that several tests share.
import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import { join } from "node:path";
import { AxeBuilder } from "@axe-core/playwright";
import { chromium } from "playwright-core";

export const base = process.env.FALZKUNST_URL ?? "http://127.0.0.1:7400";

/** Those of the demo who sign in; run.mjs does it once for each, and leaves the cookies in a folder. */
export const people = ["vreni@murmeltier.example", "tobias@murmeltier.example"];

/** How long something may not come, in ms: only what never ends is given up, also on a machine that is ten times slower. A test is over when all has come. */
const patience = 180_000;

export const launch = () => chromium.launchServer({
  executablePath: "/usr/bin/chromium-headless-shell",
  args: ["--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking", "--disable-component-update",
    "--disable-sync"],
});

/** A page in a window of its own, in the browser of run.mjs, or in one that goes when it is closed. */
export async function open(options = {}) {
  const own = process.env.FALZKUNST_BROWSER ? null : await launch();
  const browser = await chromium.connect(process.env.FALZKUNST_BROWSER ?? own.wsEndpoint());
  browser.on("disconnected", () => own?.close());
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, acceptDownloads: true, ...options });
  context.setDefaultTimeout(patience);
  const page = await context.newPage();
  page.problems = [];
  page.on("pageerror", e => page.problems.push(e.message));
  page.on("console", m => {
    if (m.type() === "error") page.problems.push(m.text());
  });
  return { browser, context, page };
}

/** Counts what a person does: each click, each key typed into a field, each choice. */
export class Hands {
  actions = 0;

  constructor(page) {
    this.page = page;
  }

  async click(selector) {
    this.actions++;
    await this.page.click(selector);
  }

  async type(selector, text) {
    this.actions++;
    await this.page.fill(selector, text);
  }

  async choose(selector, value) {
    this.actions++;
    await this.page.selectOption(selector, value);
  }
}

/** Somebody who is signed in already comes to the dockets; one who is not signs in. */
export async function signIn(hands, email = people[0]) {
  if (!process.env.FALZKUNST_PEOPLE) return await signInByHand(hands, email);
  const { cookies } = JSON.parse(readFileSync(join(process.env.FALZKUNST_PEOPLE, `${email}.json`), "utf8"));
  await hands.page.context().addCookies(cookies);
  let said;
  do {
    await hands.page.goto(base + "/dockets");
    if (await hands.page.locator(".begin").count()) return;
    said = `${hands.page.url()}: ${await hands.page.innerText("body")}`;
    // A machine that is very busy may be slow to let somebody into its database; that is said, and tried again.
  } while (said.includes("The database does not answer"));
  assert.fail(said);
}

export async function signInByHand(hands, email = people[0]) {
  await hands.page.goto(base + "/");
  await hands.type("[name=email]", email);
  await hands.type("[name=password]", "fernblick hut");
  await hands.click("main button[type=submit]");
  await hands.page.waitForURL("**/dockets");
}

/** What a click downloads, as text of one byte a sign. */
export async function downloaded(page, selector) {
  const [download] = await Promise.all([page.waitForEvent("download"), page.click(selector)]);
  const parts = [];
  for await (const part of await download.createReadStream()) parts.push(part);
  return Buffer.concat(parts).toString("latin1");
}

/** Turns the pages of the list of dockets until something is on it: other tests leave dockets, which are newer. */
export async function listed(page, selector) {
  for (let list = 1; ; list++) {
    await page.goto(`${base}/dockets?list=${list}`);
    if (await page.locator(selector).count()) return;
    assert.ok(await page.locator(".docket-open").count(), `${selector} is on no page of the list`);
  }
}

/** Starts a docket from nothing, on an empty page, with a box of a typed width on it that is chosen then. */
export async function boxOnEmptyPage(page, width) {
  await page.click(".begin button:has-text('empty page')");
  await page.waitForURL("**/build");
  await page.fill("#add-shape [name=width]", width);
  await page.click("#add-shape [value=rectangle]");
  await page.waitForSelector(".handle");
  await settled(page);
}

/** Waits until what was done with the mouse is painted. */
export const painted = page => page.evaluate(() => new Promise(done => requestAnimationFrame(() => requestAnimationFrame(done))));

/** Waits until nothing is under way: what a form sent, or the card of what was chosen. */
export async function settled(page) {
  await page.waitForFunction(() => !document.querySelector(".htmx-request, .htmx-swapping, .htmx-settling, #card[aria-busy]"));
}

/** What axe finds wrong on a page, as "rule: elements". Only that is written down, and no page for results is opened: both take more
 *  time than the rules. */
export async function faults(page) {
  const { violations } = await new AxeBuilder({ page })
    .options({ runOnly: ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"], resultTypes: ["violations"] }).setLegacyMode(true).analyze();
  return violations.map(v => `${v.id}: ${v.nodes.map(n => n.html).slice(0, 3).join(" | ")}`);
}
