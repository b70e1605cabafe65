// Lays out the demo docket's pieces, 12 copies, stock by stock on the demo drawer's sheets: as real shapes, and as their boxes.
import { writeFileSync, mkdirSync } from "node:fs";
import { spawnSync } from "node:child_process";
import { join, dirname } from "node:path";
import { fileURLToPath } from "node:url";

const here = dirname(fileURLToPath(import.meta.url));
const cli = join(here, "..", "falzkunst");
mkdirSync(join(here, "samples"), { recursive: true });
const run = (...args) => JSON.parse(spawnSync(cli, args, { maxBuffer: 1 << 28 }).stdout.toString());
const design = run("read", join(here, "..", "demo", "fernblick-thank-you.svg"));
const sheets = { "#f5ecd6": ["ivory", 210, 297], "#64809a": ["slate", 305, 305], "#fdfdfb": ["snow", 210, 297], "#7f97ab": ["slate", 305, 305],
  "#5b7891": ["slate", 305, 305], "#3a6650": ["pine", 215.9, 279.4], "#264f3d": ["pine", 215.9, 279.4], "#b86842": ["copper", 148, 210] };
let total = 0;
for (const stock of ["ivory", "slate", "snow", "pine", "copper"]) {
  const pieces = design.pieces.filter(p => sheets[p.colour][0] === stock);
  const [, widthMm, heightMm] = sheets[pieces[0].colour];
  const ask = path => {
    const file = join(here, "samples", "density.json");
    writeFileSync(file, JSON.stringify({ gapMm: 2, sheets: [{ id: "s", widthMm, heightMm, marginMm: 5, count: 99 }],
      pieces: pieces.map(p => ({ id: p.id, path: path(p), count: 12, turns: "quarter" })) }));
    return run("nest", file, "--seconds", "3");
  };
  const real = ask(p => p.outline);
  const boxes = ask(p => { const [x, y, w, h] = p.bounds; return `M${x} ${y}h${w}v${h}h${-w}Z`; });
  // How far down the last sheet is used.
  const last = r => Math.max(...r.placements.filter(p => p.sheet === r.sheetsUsed - 1).map(p => {
    const [x, y, w, h] = pieces.find(q => q.id === p.piece).bounds, t = p.rotateDeg * Math.PI / 180;
    return Math.max(...[[x, y], [x + w, y], [x, y + h], [x + w, y + h]].map(([u, v]) => u * Math.sin(t) + v * Math.cos(t) + p.dyMm));
  })) / heightMm;
  total += real.seconds;
  console.log(`${stock}: ${pieces.length * 12} pieces on ${real.sheetsUsed} sheets as shapes, ${boxes.sheetsUsed} as boxes; of the last `
    + `${(100 * last(real)).toFixed(1)} % and ${(100 * last(boxes)).toFixed(1)} %; ${real.seconds} s`);
}
console.log(`all stocks: ${total.toFixed(1)} s`);
