// Seconds and peak memory of the command line: tracing 3000 x 3000 pixels in every mode, pictures of 60 megapixels, and each hostile file of
// tests/cases/hostile.
// Usage: node limits.mjs [trace|large|hostile]
import { writeFileSync, mkdirSync, readFileSync, readdirSync, statSync } from "node:fs";
import * as zlib from "node:zlib";
import { spawn, execFileSync } from "node:child_process";
import { join, dirname } from "node:path";
import { fileURLToPath } from "node:url";

const here = dirname(fileURLToPath(import.meta.url)), out = join(here, "samples", "limits"), cli = join(here, "..", "falzkunst");
mkdirSync(out, { recursive: true });
execFileSync(cli, ["help"]);
const program = join(here, "..", "src", "Falzkunst.Cli", "bin", "Release", "net10.0", "linux-x64", "publish", "falzkunst-cli");

/** Runs the program; its peak memory is what the kernel last said before it ended. */
const run = args => new Promise(done => {
  const from = performance.now(), child = spawn(program, args, { stdio: ["ignore", "pipe", "pipe"] });
  let peak = 0, said = "", wrote = "";
  child.stdout.on("data", d => wrote += d);
  child.stderr.on("data", d => said += d);
  const look = setInterval(() => {
    try {
      peak = Math.max(peak, Number(readFileSync(`/proc/${child.pid}/status`, "utf8").match(/VmHWM:\s+(\d+)/)?.[1] ?? 0) / 1024);
    } catch { /* it has ended */ }
  }, 15);
  child.on("close", code => {
    clearInterval(look);
    done({ code, seconds: (performance.now() - from) / 1000, peak, said: said.trim(), wrote });
  });
});

/** A PNG of grey levels given row by row. */
function png(file, width, height, row) {
  const crc = zlib.crc32 ?? (b => { let c = -1; for (const x of b) { c ^= x; for (let k = 0; k < 8; k++) c = c & 1 ? 0xedb88320 ^ (c >>> 1)
    : c >>> 1; } return ~c >>> 0; });
  const chunk = (type, data) => {
    const b = Buffer.alloc(12 + data.length);
    b.writeUInt32BE(data.length);
    b.write(type, 4);
    data.copy(b, 8);
    b.writeUInt32BE(crc(b.subarray(4, 8 + data.length)), 8 + data.length);
    return b;
  };
  const head = Buffer.alloc(13);
  head.writeUInt32BE(width);
  head.writeUInt32BE(height, 4);
  head.set([8, 0, 0, 0, 0], 8);
  const rows = Buffer.alloc((width + 1) * height);
  for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) rows[y * (width + 1) + 1 + x] = row(x, y);
  writeFileSync(file, Buffer.concat([Buffer.from([0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10]), chunk("IHDR", head),
    chunk("IDAT", zlib.deflateSync(rows, { level: 1 })), chunk("IEND", Buffer.alloc(0))]));
}

// Petals on a lattice, anti-aliased: as many paths as a full sheet of lettering has.
const petals = pitch => (x, y) => {
  const u = x % pitch - pitch / 2, v = y % pitch - pitch / 2, d = Math.hypot(u, v), r = pitch * (0.26 + 0.1 * Math.cos(5 * Math.atan2(v, u) + (x / pitch | 0)));
  return 255 - 235 * Math.min(1, Math.max(0, r - d + 0.5)) + (Math.floor(x / pitch) % 3) * 6;
};
// Pen strokes: rings of 9 pixels.
const rings = pitch => (x, y) => {
  const d = Math.abs(Math.hypot(x % pitch - pitch / 2, y % pitch - pitch / 2) - pitch * 0.34) - 4.5;
  return 255 - 235 * Math.min(1, Math.max(0, 0.5 - d));
};
const which = process.argv[2];
const say = (what, r) => console.log(`${what.padEnd(46)} ${r.seconds.toFixed(2)} s, ${r.peak.toFixed(0)} MB${r.code ? `, exit ${r.code}: ${r.said}` : ""}`);

if (!which || which === "trace") {
  png(join(out, "petals.png"), 3000, 3000, petals(200));
  png(join(out, "rings.png"), 3000, 3000, rings(200));
  for (const mode of ["flat", "outline", "colours", "centreline"])
    say(`3000 x 3000, ${mode}`, await run(["trace", join(out, mode === "centreline" ? "rings.png" : "petals.png"), "--mode", mode, "--dpi", "300", "--out",
      join(out, "o.svg")]));
}

if (!which || which === "large") {
  png(join(out, "large.png"), 7740, 7740, petals(516));
  for (const mode of ["flat", "outline", "colours", "centreline"])
    say(`7740 x 7740, ${mode}`, await run(["trace", join(out, "large.png"), "--mode", mode, "--dpi", "300", "--out", join(out, "o.svg")]));
  say("7740 x 7740, read", await run(["read", join(out, "large.png"), "--out", join(out, "o.falz.json")]));
}

if (!which || which === "hostile") {
  const root = join(here, "..", "tests", "cases", "hostile");
  let n = 0, slowest = { seconds: 0 }, largest = { peak: 0 };
  for (const kind of readdirSync(root).filter(k => statSync(join(root, k)).isDirectory())) {
    for (const name of readdirSync(join(root, kind))) {
      const r = { name: `${kind}/${name}`, ...await run(["read", join(root, kind, name), "--out", join(out, "o.falz.json")]) };
      n++;
      if (r.seconds > slowest.seconds) slowest = r;
      if (r.peak > largest.peak) largest = r;
      const plain = r.code === 0 ? JSON.parse(r.wrote) && r.said === "" : r.code === 2 || r.code === 3 ? r.said.split("\n").length === 1
        && !/Exception|   at /.test(r.said) : false;
      if (!plain || r.seconds > 10 || r.peak > 500) say(`NOT AS IT SHOULD BE ${r.name}`, r);
      else if (process.argv[3] === "--each") say(r.name, r);
    }
  }
  console.log(`${n} hostile files; the slowest ${slowest.seconds.toFixed(1)} s (${slowest.name}), the largest ${largest.peak.toFixed(0)} MB (${largest.name})`);
}
