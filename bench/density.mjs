// How dense layouts are: against an independent packing library (bench/packing.cpp), on the same instances, for the same time; and jigsaws of known best.
// Usage: node bench/density.mjs against|jigsaws|pieces|longer [first seed]
import { existsSync, mkdirSync, writeFileSync } from "node:fs";
import { spawnSync } from "node:child_process";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";
import { chance, path, puzzle } from "./jigsaws.mjs";

const here = dirname(fileURLToPath(import.meta.url)), samples = join(here, "samples");
const cli = process.env.FALZKUNST_CLI ?? join(here, "..", "falzkunst");
mkdirSync(samples, { recursive: true });

function nest(request, seconds, ...more) {
  const file = join(samples, "density.json");
  writeFileSync(file, JSON.stringify(request));
  const run = spawnSync(cli, ["nest", file, "--seconds", `${seconds}`, "--progress", ...more], { maxBuffer: 1 << 28 });
  if (run.status !== 0) throw new Error(run.stderr.toString().slice(-2000));
  return { ...JSON.parse(run.stdout.toString()), log: run.stderr.toString() };
}

// Rings of a piece, in mm, with curves as chords.
function rings(text) {
  const all = [];
  let at = [0, 0];
  for (const [, letter, numbers] of text.matchAll(/([MLCZ])([^MLCZ]*)/g)) {
    const v = numbers.match(/-?\d*\.?\d+(?:e-?\d+)?/g)?.map(Number) ?? [];
    if (letter === "M") all.push([at = v.slice(0, 2)]);
    for (let i = letter === "M" ? 2 : 0; letter !== "C" && letter !== "Z" && i + 1 < v.length; i += 2) all.at(-1).push(at = [v[i], v[i + 1]]);
    for (let i = 0; letter === "C" && i + 5 < v.length; i += 6) {
      const [a, b, c, d, e, f] = v.slice(i, i + 6), [x, y] = at;
      for (let k = 1; k <= 12; k++) {
        const t = k / 12, u = 1 - t;
        all.at(-1).push([u ** 3 * x + 3 * u * u * t * a + 3 * u * t * t * c + t ** 3 * e, u ** 3 * y + 3 * u * u * t * b + 3 * u * t * t * d + t ** 3 * f]);
      }
      at = [e, f];
    }
  }
  return all;
}
const areaOf = ring => Math.abs(ring.reduce((s, [x, y], i) => { const [u, v] = ring[(i + 1) % ring.length]; return s + x * v - u * y; }, 0)) / 2;

// Any shape: a star of random radii; or a known kind.
function shape(next, size) {
  const kind = Math.floor(next() * 5), p = [];
  if (kind === 0) return `M0 0L${size * (0.4 + next())} 0L${size * next()} ${size * (0.4 + next())}Z`;
  if (kind === 1) {
    const w = size * (0.4 + next()), h = size * (0.4 + next()), t = 0.3 * Math.min(w, h);
    return `M0 0L${w} 0L${w} ${t}L${t} ${t}L${t} ${h}L0 ${h}Z`;
  }
  if (kind === 2) {
    const r = size * (0.25 + 0.3 * next()), k = 0.5523 * r;
    return `M${r} 0C${r} ${k} ${k} ${r} 0 ${r}C${-k} ${r} ${-r} ${k} ${-r} 0C${-r} ${-k} ${-k} ${-r} 0 ${-r}C${k} ${-r} ${r} ${-k} ${r} 0Z`;
  }
  const n = 5 + Math.floor(next() * 7);
  for (let i = 0; i < n; i++) { const r = size * (0.25 + 0.45 * next()), a = 2 * Math.PI * i / n; p.push([r * Math.cos(a), r * Math.sin(a)]); }
  return path(p);
}

function instances(first) {
  const all = {};
  const sheet = (widthMm, heightMm) => [{ id: "s", widthMm, heightMm, marginMm: 5, count: 60 }];
  for (let k = 0; k < 4; k++) {
    const next = chance(first + k);
    all[`shapes ${first + k}`] = { gapMm: 2, sheets: sheet(210, 297),
      pieces: Array.from({ length: 40 }, (_, i) => ({ id: `p${i}`, path: shape(next, 45), count: 1 })) };
  }
  for (let k = 0; k < 4; k++) {
    const next = chance(first + 100 + k);
    all[`copies ${first + k}`] = { gapMm: 1, sheets: sheet(305, 305),
      pieces: Array.from({ length: 1 + k }, (_, i) => ({ id: `p${i}`, path: shape(next, 50), count: Math.round(60 / (1 + k)) })) };
  }
  for (let k = 0; k < 2; k++) all[`jigsaw ${first + k}`] = { ...puzzle(first + k, 30), gapMm: 0.5, sheets: sheet(210, 297) };
  const design = JSON.parse(spawnSync(cli, ["read", join(here, "..", "demo", "fernblick-thank-you.svg")], { maxBuffer: 1 << 28 }).stdout.toString());
  const stocks = { "#f5ecd6": ["ivory", 210, 297], "#64809a": ["slate", 305, 305], "#fdfdfb": ["snow", 210, 297], "#7f97ab": ["slate", 305, 305],
    "#5b7891": ["slate", 305, 305], "#3a6650": ["pine", 215.9, 279.4], "#264f3d": ["pine", 215.9, 279.4], "#b86842": ["copper", 148, 210] };
  for (const stock of ["ivory", "slate", "snow", "pine", "copper"]) {
    const pieces = design.pieces.filter(p => stocks[p.colour][0] === stock);
    all[`card, ${stock}`] = { gapMm: 2, sheets: sheet(...stocks[pieces[0].colour].slice(1)),
      pieces: pieces.map(p => ({ id: p.id, path: p.outline, count: 12 })) };
  }
  for (const r of Object.values(all)) for (const p of r.pieces) p.turns = "quarter";
  return all;
}

// Of the last sheet, what is in use from whichever side is less, as of the judge's.
function lastPart(request, ours) {
  const [s] = request.sheets;
  const points = ours.placements.filter(p => p.sheet === ours.sheetsUsed - 1).flatMap(p => {
    const t = p.rotateDeg * Math.PI / 180;
    return rings(request.pieces.find(q => q.id === p.piece).path).flat().map(([x, y]) =>
      [x * Math.cos(t) - y * Math.sin(t) + p.dxMm, x * Math.sin(t) + y * Math.cos(t) + p.dyMm]);
  });
  const far = k => Math.max(...points.map(p => p[k])) - s.marginMm;
  return Math.min(far(0) / (s.widthMm - 2 * s.marginMm), far(1) / (s.heightMm - 2 * s.marginMm));
}

function against(first) {
  const judge = join(samples, "packing");
  if (!existsSync(judge)) throw new Error("Build bench/packing.cpp first; it says how.");
  let product = 1, n = 0;
  for (const [name, request] of Object.entries(instances(first))) {
    const [s] = request.sheets;
    // The judge knows no margin: its sheet is smaller.
    const input = `${request.gapMm} ${s.widthMm - 2 * s.marginMm} ${s.heightMm - 2 * s.marginMm} 4\n` + request.pieces.map(p => {
      const [ring] = rings(p.path).sort((a, b) => areaOf(b) - areaOf(a));
      return `${p.count} ${ring.length} ${ring.map(q => q.join(" ")).join(" ")}`;
    }).join("\n");
    const run = spawnSync(judge, { input, maxBuffer: 1 << 28, timeout: 300000 });
    const its = JSON.parse(run.stdout.toString() || "{\"sheets\":0}");
    const seconds = Math.min(60, Math.max(10, its.seconds ?? 10));
    const ours = nest(request, seconds);
    const area = request.pieces.reduce((t, p) => t + p.count
      * rings(p.path).map(areaOf).sort((a, b) => b - a).reduce((u, a, i) => i ? u - a : a, 0), 0);
    const part = lastPart(request, ours);
    const use = (sheets, part) => area / ((sheets - 1 + part) * (s.widthMm - 2 * s.marginMm) * (s.heightMm - 2 * s.marginMm));
    const a = use(ours.sheetsUsed, part), b = use(its.sheets, its.part);
    if (its.sheets > 0 && !its.missing) (product *= a / b, n++);
    console.log(`${name}: ${ours.sheetsUsed} sheets, ${(100 * a).toFixed(1)} % in use (${seconds.toFixed(0)} s); the judge ${its.sheets}`
      + `${its.missing ? ` (${its.missing} missing)` : ""},`
      + ` ${(100 * b).toFixed(1)} % (${its.seconds?.toFixed(1)} s): ${(a / b).toFixed(3)}`);
  }
  console.log(`geometric mean of ${n}: ${(product ** (1 / n)).toFixed(3)}`);
}

// As exact as numbers are, and as files are: to a hundredth of a millimetre.
function jigsaws(first) {
  for (const digits of [5, 2]) {
    for (const turns of ["none", "quarter", "any"]) {
      for (const [pieces, seconds, tries] of [[12, 10, 10], [25, 60, 10], [50, 180, 5]]) {
        let solved = 0, longest = 0;
        for (let k = 0; k < tries; k++) {
          const request = puzzle(first + k, pieces, { turns, digits, count: 1 });
          const its = nest(request, seconds, "--until-all-fit");
          solved += its.unplaced.length === 0;
          longest = Math.max(longest, its.seconds);
        }
        console.log(`jigsaws of ${pieces}, turns ${turns}, ${digits} digits: ${solved} of ${tries} in ${seconds} s, the longest took ${longest} s`);
      }
    }
  }
}

function kinds(seed, count) {
  const next = chance(seed);
  return { gapMm: 2, sheets: [{ id: "s", widthMm: 305, heightMm: 305, marginMm: 5, count: 200 }],
    pieces: Array.from({ length: count / 10 }, (_, i) => ({ id: `p${i}`, path: shape(next, 40), count: 10, turns: "quarter" })) };
}

// What 250 pieces gain by five times as long: measured by rounds, so that it does not matter what else the machine does.
function longer(first) {
  for (let k = 0; k < 5; k++) {
    const request = kinds(first + k, 250);
    const [short, long] = [40, 200].map(rounds => nest(request, 30, "--rounds", `${rounds}`)).map(r => r.sheetsUsed - 1 + lastPart(request, r));
    console.log(`250 pieces, seed ${first + k}: ${short.toFixed(3)} sheets, after five times as long ${long.toFixed(3)}: `
      + `${(100 * (short / long - 1)).toFixed(1)} % more`);
  }
}

function pieces(first) {
  for (const [count, seconds] of [[250, 30], [1000, 30]]) {
    const request = kinds(first, count);
    const begun = Date.now();
    nest(request, 0.01);
    const first1 = (Date.now() - begun) / 1000;
    const ours = nest(request, seconds);
    const lines = ours.log.trim().split("\n");
    console.log(`${count} pieces: valid after ${first1.toFixed(1)} s with starting; ${lines.find(l => l.includes("fill"))} -> ${lines.at(-1)}; `
      + `${ours.seconds} s`);
  }
}

const [what = "against", seed = "7000"] = process.argv.slice(2);
({ against, jigsaws, pieces, longer })[what](Number(seed));
