// Kills the application, a cutter stand-in or the database at random moments, while somebody edits, uploads, lays out and runs; ./start brings each up again.
// Afterwards everything that was acknowledged must be there, nothing may hang, and no line of a run may have been done twice.
// Starts the application with data of its own. Usage: node faults.mjs [kills] [seed]
import { spawn, execFileSync } from "node:child_process";
import { mkdirSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";

const here = dirname(fileURLToPath(import.meta.url)), root = join(here, "..");
const data = process.env.FALZKUNST_BENCH_DATA ?? join(tmpdir(), "falz-faults");
const kills = Number(process.argv[2] ?? 30);
let seed = Number(process.argv[3] ?? 11);
const random = () => (seed = (seed * 16807) % 2147483647) / 2147483647;
const sleep = ms => new Promise(done => setTimeout(done, ms));
const token = page => page.match(/name="__RequestVerificationToken" type="hidden" value="([^"]+)"/)?.[1];
const text = page => page.replace(/<[^>]+>/g, " ").replace(/\s+/g, " ");

let base = "";
rmSync(data, { recursive: true, force: true });
mkdirSync(data, { recursive: true });
const app = spawn(join(root, "start"), [],
  { env: { ...process.env, FALZKUNST_DATA: data, FALZKUNST_PORT: "27510", FALZKUNST_FACTOR: "60" }, stdio: ["ignore", "pipe", "pipe"] });
let said = "";
app.stdout.on("data", d => said += d);
app.stderr.on("data", d => said += d);
for (let i = 0; i < 600 && !base; i++) {
  await sleep(200);
  base = said.match(/Falzkunst is at\s+(\S+)/)?.[1] ?? "";
}
if (!base) throw new Error(`It did not start: ${said}`);
const sql = what => execFileSync("psql",
  ["-h", "127.0.0.1", "-p", readFileSync(join(data, "port-db"), "utf8").trim(), "-U", "falzkunst_app", "-d", "falzkunst", "-Atc", what],
  { env: { ...process.env, PGPASSWORD: readFileSync(join(data, "pg.app"), "utf8").trim() }, stdio: ["ignore", "pipe", "ignore"] }).toString().trim();

const cookies = new Map();
/** Asks until there is an answer that is one; while something is being started again there is none. */
async function ask(path, options = {}, tries = 1) {
  for (let n = 0; ; n++) {
    try {
      const answer = await fetch(base + path, { redirect: "manual", signal: AbortSignal.timeout(15_000), ...options,
        headers: { Cookie: [...cookies].map(([k, v]) => `${k}=${v}`).join("; "), ...options.headers } });
      for (const cookie of answer.headers.getSetCookie()) {
        const [pair] = cookie.split(";"), i = pair.indexOf("=");
        cookies.set(pair.slice(0, i), pair.slice(i + 1));
      }
      const body = await answer.text();
      if (answer.status < 500) return { status: answer.status, body, to: answer.headers.get("location") };
      if (answer.status !== 503) throw new Error(`${answer.status} at ${path}: ${text(body).slice(0, 200)}`);
    } catch (e) {
      if (/^\d{3} at/.test(e.message)) throw e;
    }
    if (n + 1 >= tries) return null;
    await sleep(300);
  }
}
const page = path => ask(path, {}, 200);
async function post(path, from, fields) {
  const form = await page(from);
  const body = new URLSearchParams({ basedOn: form.body.match(/name="basedOn" value="([^"]*)"/)?.[1] ?? "", ...fields,
    __RequestVerificationToken: token(form.body) });
  return ask(path, { method: "POST", body });
}

const signIn = await page("/sign-in");
await ask("/sign-in", { method: "POST",
  body: new URLSearchParams({ email: "vreni@murmeltier.example", password: "fernblick hut", __RequestVerificationToken: token(signIn.body) }) });

// Acknowledged: a docket by its name, a piece by its new label.
const uploads = [], labels = [], problems = [];
let over = false, runs = 0;
async function edits() {
  for (let i = 0; !over; i++) {
    try {
      if (i % 3 === 0) {
        const list = await page("/dockets"), form = new FormData();
        form.append("__RequestVerificationToken", token(list.body));
        form.append("file", new Blob(["<svg xmlns='http://www.w3.org/2000/svg' width='9mm' height='9mm'><rect width='9' height='9'/></svg>"]), `u${i}z.svg`);
        if ((await ask("/dockets", { method: "POST", body: form }))?.to) uploads.push(`U${i}z`);
      } else {
        const answer = await post("/dockets/41/build?handler=Rename", "/dockets/41/build", { id: "p1", label: `label ${i}z` });
        if (answer?.status === 302) labels.push(`label ${i}z`);
      }
    } catch (e) {
      problems.push(e.message);
    }
    await sleep(100 + random() * 300);
  }
}
async function working() {
  while (!over) {
    try {
      await post("/dockets/43/lay-out?handler=LayOut", "/dockets/43/lay-out", {});
      for (let i = 0; i < 100 && !over && !(await page("/dockets/43/lay-out")).body.includes("Go on to Run"); i++) await sleep(300);
      const started = await post("/dockets/43/run?handler=Start", "/dockets/43/run", { sheet: "0" });
      if (started) runs++;
      for (let i = 0; i < 200 && !over; i++) {
        const now = await page("/dockets/43/run?sheet=0");
        const run = now.body.match(/name="run" value="([^"]+)"/)?.[1];
        if (!run) break;
        const asked = now.body.match(/name="asked" value="([^"]+)"/)?.[1];
        if (asked) await post("/dockets/43/run?handler=Confirm", "/dockets/43/run?sheet=0", { run, asked });
        await sleep(200);
      }
    } catch (e) {
      problems.push(e.message);
    }
  }
}
const pidsOf = what => execFileSync("pgrep", ["-f", what]).toString().trim().split("\n").map(Number);
const busy = [edits(), working()];
const counts = {};
for (let i = 0; i < kills; i++) {
  // Not so fast that ./start gives up, which it does when one thing dies five times in a row within five seconds of each start.
  await sleep(3000 + random() * 6000);
  const what = ["application", "stand-in", "database"][Math.floor(random() * 3)];
  try {
    const pid = what === "application" ? pidsOf(`Falzkunst.Web --urls ${base}`)[0]
      : what === "stand-in" ? pidsOf(`falzkunst-standins --port ${readFileSync(join(data, "port-cutter"), "utf8").trim()} `)[0]
        : Number(readFileSync(join(data, "pg/data/postmaster.pid"), "utf8").split("\n")[0]);
    process.kill(pid, "SIGKILL");
    counts[what] = (counts[what] ?? 0) + 1;
  } catch {
    // It is just being started again.
  }
}
over = true;
await Promise.all(busy);
// A minute for all that hangs to be swept.
let hangs = "";
for (let i = 0; i < 60; i++) {
  await sleep(1000);
  try {
    hangs = sql(`select count(*) from "Runs" where "State" in (0, 1)`);
    if (hangs === "0") break;
  } catch {
    hangs = "the database";
  }
}
if (hangs === "the database") {
  console.log(said.slice(-3000));
  app.kill("SIGTERM");
  process.exit(1);
}
const lost = uploads.filter(u => sql(`select count(*) from "Dockets" where "Name" = '${u}'`) !== "1")
  .concat(labels.filter(l => sql(`select count(*) from "Revisions" where "What" like '%${l}%'`) === "0"));
const twice = [];
for (const id of sql(`select "Id" from "Runs" where "Record" <> ''`).split("\n").filter(Boolean)) {
  const marks = JSON.parse(sql(`select "Record" from "Runs" where "Id" = '${id}'`)), seen = new Map();
  // The stand-in works one pass of each line of this docket.
  for (const mark of marks) {
    const key = `${mark.Pen ?? mark.pen} ${(mark.Units ?? mark.units).join()}`;
    seen.set(key, (seen.get(key) ?? 0) + 1);
  }
  const most = Math.max(0, ...seen.values());
  if (most > 1) twice.push(`${id}: ${most} times`);
}
const stays = (await page("/dockets")).body.includes("New docket");
console.log(`${kills} kills (${Object.entries(counts).map(([k, v]) => `${k} ${v}`).join(", ")}), seed ${process.argv[3] ?? 11}`);
console.log(`acknowledged: ${uploads.length} uploads, ${labels.length} edits; lost: ${lost.length} ${lost.slice(0, 3)}`);
console.log(`runs begun: ${runs}; ended: ${sql(`select "State", count(*) from "Runs" group by 1 order by 1`).replaceAll("\n", "; ")} (2 done, 3 stopped, `
  + `4 failed, 5 asking); hanging after a minute: ${hangs}; lines done twice in a run: ${twice.length} ${twice.slice(0, 2)}`);
console.log(`answers that were faults: ${problems.length} ${problems.slice(0, 3).join(" | ")}; the sign-in ${stays ? "held" : "was lost"}`);
app.kill("SIGTERM");
await new Promise(done => app.on("exit", done));
process.exit(lost.length || hangs !== "0" || twice.length || problems.length || !stays ? 1 : 0);
