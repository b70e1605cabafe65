// Draws known shapes at 300 dpi, traces the pictures, and compares nodes and errors with a well-known tracer of bilevel pictures
// at its default settings. The error is the 95th percentile of the distance between the boundaries, seen from both.
import { writeFileSync, readFileSync, mkdirSync } from "node:fs";
import { execFileSync } from "node:child_process";
import { join, dirname } from "node:path";
import { fileURLToPath } from "node:url";
import { promisify } from "node:util";
import tracer from "potrace";

const here = dirname(fileURLToPath(import.meta.url));
const out = join(here, "samples", "tracing");
mkdirSync(out, { recursive: true });
const cli = (...args) => JSON.parse(execFileSync(join(here, "..", "falzkunst"), args, { encoding: "utf8" }));
const trace = promisify(tracer.trace);

const wave = Array.from({ length: 120 }, (_, i) => {
  const a = i * Math.PI / 60, r = 14 + 3 * Math.sin(5 * a) + 1.5 * Math.cos(3 * a);
  return `${(25 + r * Math.cos(a)).toFixed(3)} ${(25 + r * Math.sin(a)).toFixed(3)}`;
}).join("L");
const shapes = {
  disc: "<circle cx='25' cy='25' r='17.3'/>",
  star: "<path d='M25 4L30 19H46L33 29 38 45 25 35 12 45 17 29 4 19H20Z'/>",
  ring: "<path fill-rule='evenodd' d='M25 5A20 20 0 1 1 24.9 5ZM25 15A10 10 0 1 0 25.1 15Z'/>",
  wave: `<path d='M${wave}Z'/>`,
  letters: "<path fill-rule='evenodd' d='M5 40L12 10H16L23 40H19L17 32H11L9 40ZM12 28H16L14 19ZM27 10H36C44 10 44 24 37 25C46 26 45 40 36 40H27ZM31 "
    + "14V22H35C39 22 39 14 35 14ZM31 27V36H35C40 36 40 27 35 27Z'/>",
  leaves: Array.from({ length: 9 }, (_, i) => `<path transform='rotate(${i * 40} 25 25)' d='M25 22C29 16 29 9 25 4C21 9 21 16 25 22Z'/>`).join(""),
};

// Nodes of a path: one for each segment.
const nodes = d => (d.match(/[CLHV]/gi) ?? []).length
  + [...d.matchAll(/[CL]([^A-Za-z]*)/gi)]
  .reduce((n, m) => n + Math.max(0, (m[1].trim().split(/[\s,]+/).length / (m[0][0].toUpperCase() === "C" ? 6 : 2)) - 1), 0);
const points = (d, scale) => {
  const list = [];
  let at = [0, 0], start = at;
  for (const [, op, rest] of d.matchAll(/([MCLHVZ])([^MCLHVZ]*)/gi)) {
    const v = (rest.match(/-?[\d.]+(?:e-?\d+)?/gi) ?? []).map(x => x * scale);
    const line = to => {
      const n = Math.max(1, Math.ceil(Math.hypot(to[0] - at[0], to[1] - at[1]) / 0.01));
      for (let i = 1; i <= n; i++) list.push([at[0] + (to[0] - at[0]) * i / n, at[1] + (to[1] - at[1]) * i / n]);
      at = to;
    };
    switch (op) {
      case "M": at = start = [v[0], v[1]]; for (let i = 2; i + 1 < v.length; i += 2) line([v[i], v[i + 1]]); break;
      case "L": for (let i = 0; i + 1 < v.length; i += 2) line([v[i], v[i + 1]]); break;
      case "H": for (const x of v) line([x, at[1]]); break;
      case "V": for (const y of v) line([at[0], y]); break;
      case "C": for (let i = 0; i + 5 < v.length; i += 6) {
        const from = at, [a, b, c, e, f, g] = v.slice(i, i + 6);
        const n = Math.ceil((Math.hypot(a - from[0], b - from[1]) + Math.hypot(c - a, e - b) + Math.hypot(f - c, g - e)) / 0.01);
        for (let k = 1; k <= n; k++) {
          const t = k / n, s = 1 - t;
          list.push([from[0] * s ** 3 + 3 * a * s * s * t + 3 * c * s * t * t + f * t ** 3, from[1] * s ** 3 + 3 * b * s * s * t + 3 * e * s * t * t
            + g * t ** 3]);
        }
        at = [f, g];
      } break;
      case "Z": line(start); break;
      default: throw new Error(op);
    }
  }
  return list;
};
const error95 = (truth, traced) => {
  const grid = p => {
    const cells = new Map();
    for (const q of p) {
      const key = `${Math.floor(q[0])},${Math.floor(q[1])}`;
      (cells.get(key) ?? cells.set(key, []).get(key)).push(q);
    }
    return cells;
  };
  const far = (from, cells) => from.map(p => {
    let best = 1;
    for (let dx = -1; dx <= 1; dx++) for (let dy = -1; dy <= 1; dy++)
      for (const q of cells.get(`${Math.floor(p[0]) + dx},${Math.floor(p[1]) + dy}`) ?? []) best = Math.min(best, Math.hypot(p[0] - q[0], p[1] - q[1]));
    return best;
  });
  const all = [...far(truth, grid(traced)), ...far(traced, grid(truth))].sort((a, b) => a - b);
  return all[Math.floor(all.length * 0.95)];
};

let ours = 0, theirs = 0;
for (const [name, body] of Object.entries(shapes)) {
  const svg = ground => `<svg xmlns='http://www.w3.org/2000/svg' width='50.8mm' height='50.8mm' viewBox='0 0 50.8 50.8'>${ground}${body}</svg>`;
  const file = join(out, name);
  writeFileSync(file + ".svg", svg("<rect width='50.8' height='50.8' fill='#fff'/>"));
  writeFileSync(file + ".true.svg", svg(""));
  cli("render", file + ".svg", "--png", file + ".png", "--dpi", "300");
  const truth = points(cli("read", file + ".true.svg").pieces.map(p => p.outline).join(""), 1);
  const mine = cli("trace", file + ".png", "--mode", "flat", "--dpi", "300", "--out", file + ".traced.svg");
  const mineError = error95(truth, points(readFileSync(file + ".traced.svg", "utf8").match(/ d="([^"]*)"/)[1], 1));
  const theirSvg = await trace(file + ".png", { threshold: 128 });
  const theirPath = theirSvg.match(/ d="([^"]*)"/)[1];
  const theirError = error95(truth, points(theirPath, 25.4 / 300));
  ours += mine.nodes;
  theirs += nodes(theirPath);
  console.log(`${name.padEnd(8)} ours ${mine.nodes} nodes, 95 % within ${mineError.toFixed(3)} mm; theirs ${nodes(theirPath)} nodes, `
    + `${theirError.toFixed(3)} mm`);
}

console.log(`nodes altogether: ${ours} against ${theirs}, ${(ours / theirs).toFixed(2)} times`);
