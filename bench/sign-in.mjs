// Whether the time that a sign-in takes tells if there is an account: wrong passwords for a known and an unknown address in turn, each from another
// place (the application is told of a proxy, so that none is slowed). Says the medians and their ratio; 1 is best.
// Starts the application with data of its own. Usage: node sign-in.mjs [pairs]
import { spawn } from "node:child_process";
import { mkdirSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";

const root = join(dirname(fileURLToPath(import.meta.url)), ".."), pairs = Number(process.argv[2] ?? 100);
const data = process.env.FALZKUNST_BENCH_DATA ?? join(tmpdir(), "falz-sign-in");
rmSync(data, { recursive: true, force: true });
mkdirSync(data, { recursive: true });
const app = spawn(join(root, "start"), [], { env: { ...process.env, FALZKUNST_DATA: data, FALZKUNST_PORT: "27530", FALZKUNST_PROXY: "127.0.0.1" } });
let said = "", base = "";
for (const out of [app.stdout, app.stderr]) out.on("data", d => said += d);
for (let i = 0; i < 600 && !base; i++) {
  await new Promise(done => setTimeout(done, 200));
  base = said.match(/Falzkunst is at\s+(\S+)/)?.[1] ?? "";
}
if (!base) throw new Error(`It did not start: ${said}`);
const first = await fetch(base + "/sign-in");
const cookie = first.headers.getSetCookie().map(c => c.split(";")[0]).join("; ");
const token = (await first.text()).match(/name="__RequestVerificationToken" type="hidden" value="([^"]+)"/)[1];
const times = { known: [], unknown: [] };
for (let i = -5; i < pairs; i++) {
  for (const [who, email] of Object.entries({ known: "vreni@murmeltier.example", unknown: `nobody${i}@murmeltier.example` })) {
    const from = `203.0.${Math.floor((i + 5) / 200)}.${(i + 5) % 200 + 1}`, start = performance.now();
    const answer = await fetch(base + "/sign-in", { method: "POST", redirect: "manual", headers: { Cookie: cookie, "X-Forwarded-For": from },
      body: new URLSearchParams({ email, password: "not this one", __RequestVerificationToken: token }) });
    const page = await answer.text();
    if (!page.includes("do not belong together")) throw new Error(`${answer.status}: ${page.replace(/<[^>]+>|\s+/g, " ").slice(0, 300)}`);
    if (i >= 0) times[who].push(performance.now() - start);
  }
}
const at = (list, q) => list.toSorted((a, b) => a - b)[Math.floor(list.length * q)];
const line = list => `median ${at(list, 0.5).toFixed(1)} ms, middle half ${at(list, 0.25).toFixed(1)} to ${at(list, 0.75).toFixed(1)}`;
console.log(`${pairs} pairs; known: ${line(times.known)}; unknown: ${line(times.unknown)}; ratio of medians `
  + (at(times.known, 0.5) / at(times.unknown, 0.5)).toFixed(3));
app.kill("SIGTERM");
await new Promise(done => app.on("exit", done));
