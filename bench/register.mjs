// How exactly the marks of printed sheets are read: node bench/register.mjs [papers|photographs|hopeless] [COUNT] [FROM SEED].
// The printer stand-in, which shares no code with the reader, prints a sheet with its errors and tells where nine places of the page came to lie; the reader
// sees only the picture. Reported are the differences over the page, in mm, and what was refused.
import { execFile } from "node:child_process";
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
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

/** Dark shapes and light ones, pictures and patterns, as many as fill a sheet: what else a reader of marks sees. */
function artwork() {
  const shapes = Array.from({ length: 24 }, (_, i) => {
    const x = 5 + i % 6 * 30, y = 5 + Math.floor(i / 6) * 30, fill = `url(#g${i % 3})`;
    return [`<rect x="${x}" y="${y}" width="22" height="20" fill="${fill}"/>`, `<circle cx="${x + 11}" cy="${y + 11}" r="10" fill="${fill}"/>`,
      `<path d="M${x} ${y}h20v6h-14v14h-6z" fill="${fill}"/>`, `<path d="M${x + 10} ${y}l10 20h-20z" fill="${fill}"/>`][i % 4];
  });
  const stops = [["#000", "#223"], ["#c33", "#fd7"], ["#111", "#8a8"]];
  return `<svg xmlns="http://www.w3.org/2000/svg" width="190mm" height="130mm" viewBox="0 0 190 130"><defs>${stops.map(([a, b], i) =>
    `<linearGradient id="g${i}"><stop offset="0" stop-color="${a}"/><stop offset="1" stop-color="${b}"/></linearGradient>`)}</defs>${shapes.join("")}</svg>`;
}

const plotted = new Map();

/** A sheet for a seed, as PDF: marks alone, or with artwork all around them. */
async function sheetOf(seed) {
  const kind = kinds[seed % 3], inset = 8 + (seed * 7) % 6;
  if (seed % 2 === 0) {
    const options = ["--sheet", sheets[Math.floor(seed / 3) % sheets.length], "--inset", String(inset), "--kind", kind];
    const pdf = join(folder, `${seed}.pdf`);
    await run(cli, ["marks", ...options, "--pdf", pdf]);
    return { kind, options, pdf };
  }

  const [machine, sheet] = seed % 4 === 1 ? ["kammer-30", "305x305"] : ["kammer-15", "150x210"], key = `${kind} ${machine}`;
  if (!plotted.has(key)) plotted.set(key, (async () => {
    const design = join(folder, "art.svg"), out = join(folder, key.replace(" ", "-"));
    writeFileSync(design, artwork());
    await run(cli, ["plot", design, "--machine", machine, "--copies", machine === "kammer-30" ? "2" : "1", "--format", "pdf", "--marks", kind, "--out", out]);
    return join(out, "print.pdf");
  })());
  return { kind, options: ["--sheet", sheet, "--inset", "8", "--kind", kind], pdf: await plotted.get(key) };
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
// Stopped, it tells what it has.
for (const signal of ["SIGTERM", "SIGINT"]) process.on(signal, () => { seeds.length = 0; });
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
console.log(`${((Date.now() - started) / 1000 / Math.max(1, results.length)).toFixed(2)} s each`);
