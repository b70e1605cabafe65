// Runs the tests in lanes beside one another: one browser for all of them, and everybody signed in once.
//   FALZKUNST_URL=http://127.0.0.1:7400 node run.mjs [TEXT]     only tests whose name has TEXT in it
// A lane is a row of files, one after the other. Whoever runs a machine, or a docket of the demo, is in the first lane; all others have dockets of their own.
import { mkdtempSync, readdirSync, rmSync } from "node:fs";
import { spawn } from "node:child_process";
import { tmpdir } from "node:os";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";
import { launch, people, signInByHand, Hands } from "./browser.mjs";
import { chromium } from "playwright-core";

const here = dirname(fileURLToPath(import.meta.url)), [text] = process.argv.slice(2);
const shared = ["first-slice", "running", "print", "build", "access", "workshop"];
const others = readdirSync(here).filter(f => f.endsWith(".test.mjs")).map(f => f.replace(".test.mjs", "")).filter(f => !shared.includes(f)).sort();
const lanes = [shared, others.filter((_, i) => i % 2 === 0), others.filter((_, i) => i % 2 === 1)];

const server = await launch(), states = mkdtempSync(join(tmpdir(), "falz-people-"));
try {
  const browser = await chromium.connect(server.wsEndpoint());
  for (const email of people) {
    const context = await browser.newContext();
    await signInByHand(new Hands(await context.newPage()), email);
    await context.storageState({ path: join(states, `${email}.json`) });
  }
  await browser.close();
  const env = { ...process.env, FALZKUNST_BROWSER: server.wsEndpoint(), FALZKUNST_PEOPLE: states };
  await Promise.all(lanes.map(lane => new Promise(done => {
    const child = spawn(process.execPath, ["--test", "--test-concurrency=1", "--test-reporter=tap", ...text ? [`--test-name-pattern=${text}`] : [],
      ...lane.map(f => join(here, `${f}.test.mjs`))], { env, stdio: ["ignore", "pipe", "inherit"] });
    let all = "";
    child.stdout.on("data", d => all += d);
    child.on("close", () => process.stdout.write(all, done));
  })));
} finally {
  await server.close();
  rmSync(states, { recursive: true });
}
