// A browser for the tests: headless Chromium from Debian's packages, and the ways through the application that several tests share.
import { chromium } from "playwright-core";

export const base = process.env.FALZKUNST_URL ?? "http://127.0.0.1:7400";

export async function open(options = {}) {
  const browser = await chromium.launch({
    executablePath: "/usr/bin/chromium",
    args: ["--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking", "--disable-component-update",
      "--disable-sync"],
  });
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, acceptDownloads: true, ...options });
  const page = await context.newPage();
  page.problems = [];
  page.on("pageerror", e => page.problems.push(e.message));
  page.on("console", m => { if (m.type() === "error") page.problems.push(m.text()); });
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

export async function signIn(hands, email = "vreni@murmeltier.example") {
  await hands.page.goto(base + "/");
  await hands.type("[name=email]", email);
  await hands.type("[name=password]", "fernblick hut");
  await hands.click("main button[type=submit]");
  await hands.page.waitForURL("**/dockets");
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

/** Waits until htmx has nothing under way. */
export async function settled(page) {
  await page.waitForFunction(() => !document.querySelector(".htmx-request, .htmx-swapping, .htmx-settling"));
}
