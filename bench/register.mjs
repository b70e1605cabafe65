// How exactly the marks of printed sheets are read: node bench/register.mjs [papers|photographs|hopeless] [COUNT] [FROM SEED].
// The printer stand-in, which shares no code with the reader, prints a sheet with its errors and tells where nine places of the page came to lie; the reader
// sees only the picture. Reported are the differences over the page, in mm, and what was refused.
import { execFile } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { promisify } from "node:util";

const root = new URL("..", import.meta.url).pathname;
const bin = process.env.FALZKUNST_BIN ?? root;
const standIns = join(bin, "src/Falzkunst.StandIns/bin/Release/net10.0/linux-x64/falzkunst-standins");
const cli = join(bin, "src/Falzkunst.Cli/bin/Release/net10.0/linux-x64/falzkunst-cli");
const run = promisify(execFile);
const [what = "papers", count = "60", from = "1"] = process.argv.slice(2);
const folder = mkdtempSync(join(tmpdir(), "register-"));

const sheets = ["210x297", "215.9x279.4", "305x305", "148x210"];
const kinds = ["brackets", "squares", "dots"];

async function json(command, args) {
  const { stdout } = await run(command, args, { maxBuffer: 1 << 26 });
  return JSON.parse(stdout);
}

/** A sheet of its own for a seed, as PDF; artwork beside the marks where a design was made for it. */
async function sheetOf(seed) {
  const kind = kinds[seed % 3], sheet = sheets[Math.floor(seed / 3) % sheets.length], inset = 8 + (seed * 7) % 6;
  const options = ["--sheet", sheet, "--inset", String(inset), "--kind", kind];
  const pdf = join(folder, `${seed}.pdf`);
  await run(cli, ["marks", ...options, "--pdf", pdf]);
  return { kind, options, pdf };
}

/** How far apart two lists of places are, in mm: the worst of them, and all of them. */
function differences(truth, map) {
  return truth.map(([x, y, seenX, seenY]) => {
    const [px, py] = map(x, y);
    return Math.hypot(px - seenX, py - seenY);
  });
}

async function paper(seed, set) {
  const { kind, options, pdf } = await sheetOf(seed);
  const out = join(folder, `${seed}.png`);
  const dpi = process.env.FALZKUNST_DPI ?? "300";
  const { truth } = await json(standIns, ["print", pdf, "--seed", String(seed), "--out", out, "--dpi", dpi, ...set ? ["--set", set] : []]);
  const read = await json(cli, ["register", ...options, "--scan", out, "--dpi", dpi]);
  const [a, b, c, d, e, f] = read.transform;
  return { kind, off: differences(truth, (x, y) => [a * x + c * y + e, b * x + d * y + f]), read };
}

async function photograph(seed) {
  const { kind, options, pdf } = await sheetOf(seed);
  const out = join(folder, `${seed}.jpg`);
  const { truth, page } = await json(standIns, ["photograph", pdf, "--seed", String(seed), "--out", out, "--set", "smudges=0,stripe=0,offsetX=2,turn=1"]);
  const read = await json(cli, ["register", ...options, "--scan", out, "--photo"]);
  const [a, b, c, d, e, f] = read.projective, [g, h] = read.tilt, perMm = read.dpi / 25.4;
  // What lies a pixel off in the photograph lies so far off on the sheet as a pixel is wide there.
  const map = (x, y) => { const w = g * x + h * y + 1; return [(a * x + c * y + e) / w * perMm, (b * x + d * y + f) / w * perMm]; };
  const size = Math.hypot(truth[8][2] - truth[0][2], truth[8][3] - truth[0][3]) / Math.hypot(...page);
  return { kind, off: differences(truth, map).map(px => px / size), read };
}

/** Papers that can't be right: each has to be refused. */
const hopeless = ["laidTurn=180", "laidTurn=90", "stretchX=0.06,stretchY=0.06", "offsetX=25", "smudges=400,smudgeSize=14", "laidTurn=45", "skew=1.5"];

const results = [], refused = new Map();
const seeds = Array.from({ length: Number(count) }, (_, i) => Number(from) + i);
const started = Date.now();
await Promise.all([0, 1].map(async () => {
  for (let seed; (seed = seeds.shift()) !== undefined;) {
    try {
      const one = what === "photographs" ? await photograph(seed) : await paper(seed, what === "hopeless" ? hopeless[seed % hopeless.length] : undefined);
      results.push({ seed, ...one });
      if (Math.max(...one.off) > (what === "photographs" ? 0.25
          : 0.2)) console.log(`seed ${seed} (${one.kind}): off by ${Math.max(...one.off).toFixed(3)} mm, said ${one.read.uncertainMm.toFixed(3)}`);
      if (what === "hopeless")
        console.log(`seed ${seed} (${one.kind}, ${hopeless[seed % hopeless.length]}): read, off by ${Math.max(...one.off).toFixed(3)} mm`);
    } catch (e) {
      if (e.code !== 2) throw e;
      const why = e.stderr.trim().replace(/^\S+ /, "");
      refused.set(why, [...refused.get(why) ?? [], seed]);
    }
    for (const kind of ["pdf", "png", "jpg"]) rmSync(join(folder, `${seed}.${kind}`), { force: true });
  }
}));
rmSync(folder, { recursive: true });

const at = (list, part) => list.length ? list.toSorted((x, y) => x - y)[Math.min(list.length - 1, Math.floor(part * list.length))].toFixed(3) : "none";
for (const kind of [...kinds, "all"]) {
  const of = results.filter(r => kind === "all" || r.kind === kind);
  const all = of.flatMap(r => r.off);
  console.log(`${kind}: ${of.length} read; off by ${at(all, 0.5)} in the middle, ${at(all, 0.95)} at the 95th percentile, ${at(all, 1)} mm at most; `
    + `residual ${at(of.map(r => r.read.residualMm), 0.95)}, said to be known within ${at(of.map(r => r.read.uncertainMm), 0.95)}`);
}
for (const [why, of] of refused) console.log(`refused ${of.length}: ${why} (seeds ${of.slice(0, 12).join(", ")}${of.length > 12 ? ", …" : ""})`);
console.log(`${((Date.now() - started) / 1000 / Number(count)).toFixed(2)} s each`);
