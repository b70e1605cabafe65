// Draws a sample of SVG files with Falzkunst and with a reference renderer, and compares their alpha:
// intersection over union = sum of minima / sum of maxima. Usage: node likeness.mjs
// The sample is fetched once: mkdir -p samples && cd samples && npm init -y && npm install --ignore-scripts $(cat ../sets.txt)
import { readFileSync, existsSync, mkdirSync, rmSync, readdirSync, statSync } from "node:fs";
import { spawn } from "node:child_process";
import { join, dirname } from "node:path";
import { fileURLToPath } from "node:url";
import { Resvg } from "@resvg/resvg-js";
import { PNG } from "pngjs";

const here = dirname(fileURLToPath(import.meta.url));
const cli = join(here, "..", "falzkunst");
const out = join(here, "samples", "out");
rmSync(out, { recursive: true, force: true });
mkdirSync(out, { recursive: true });

function* walk(folder) {
  for (const e of readdirSync(folder).sort()) {
    const p = join(folder, e);
    if (statSync(p).isDirectory()) yield* walk(p);
    else if (e.endsWith(".svg")) yield p;
  }
}

const perSet = 25;
const files = [];
const sets = join(here, "samples", "node_modules");
for (const name of readFileSync(join(here, "sets.txt"), "utf8").split("\n").filter(Boolean)) {
  const all = [...walk(join(sets, name))];
  for (let i = 0; i < perSet; i++) files.push(all[Math.floor((i + 0.5) * all.length / perSet)]);
}

function draw(file, dpi, png) {
  return new Promise(done => {
    const p = spawn(cli, ["render", file, "--png", png, "--dpi", String(dpi)], { stdio: ["ignore", "ignore", "pipe"] });
    let said = "";
    p.stderr.on("data", d => said += d);
    p.on("close", code => done(code === 0 ? "" : said.trim()));
  });
}

async function compare(file, i) {
  const svg = readFileSync(file);
  let zoom, reference;
  try {
    const size = new Resvg(svg);
    zoom = Math.max(1, Math.min(32, 384 / Math.max(size.width, size.height)));
    zoom = Math.max(1, Math.round(zoom));
    reference = new Resvg(svg, { fitTo: { mode: "zoom", value: zoom } }).render();
  } catch (e) {
    return { file, skip: String(e) };
  }
  const png = join(out, `${i}.png`);
  const problem = await draw(file, 96 * zoom, png);
  if (problem || !existsSync(png)) return { file, iou: 0, why: problem };
  const ours = PNG.sync.read(readFileSync(png));
  const a = ours.data, b = reference.pixels;
  const w = Math.max(ours.width, reference.width), h = Math.max(ours.height, reference.height);
  let lo = 0, hi = 0;
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x++) {
      const u = x < ours.width && y < ours.height ? a[4 * (y * ours.width + x) + 3] : 0;
      const v = x < reference.width && y < reference.height ? b[4 * (y * reference.width + x) + 3] : 0;
      lo += Math.min(u, v);
      hi += Math.max(u, v);
    }
  }
  return { file, iou: hi === 0 ? 1 : lo / hi, size: `${ours.width}x${ours.height} / ${reference.width}x${reference.height}` };
}

const results = [];
let next = 0;
await Promise.all([0, 1].map(async () => {
  while (next < files.length) {
    const i = next++;
    results[i] = await compare(files[i], i);
  }
}));
const judged = results.filter(r => !r.skip);
const good = judged.filter(r => r.iou >= 0.985);
for (const r of judged.filter(r => r.iou < 0.985)) console.log(`${r.iou.toFixed(4)} ${r.file.slice(sets.length + 1)} ${r.why ?? r.size}`);
console.log(`${good.length} of ${judged.length} at 0.985 or more: ${(100 * good.length / judged.length).toFixed(1)} %`);
