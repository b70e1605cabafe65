// Reads an SVG of about 5 MB with 40,000 paths, and compares the time with what a reference renderer needs to draw it.
import { writeFileSync, readFileSync, statSync } from "node:fs";
import { spawnSync } from "node:child_process";
import { join, dirname } from "node:path";
import { fileURLToPath } from "node:url";

const here = dirname(fileURLToPath(import.meta.url));
const file = join(here, "samples", "large.svg");
let seed = 7;
const random = () => (seed = (seed * 16807) % 2147483647) / 2147483647;
const colours = ["#2f5d46", "#f5efe2", "#5b7c94", "#b86842", "#20242c"];
const n = v => v.toFixed(3);
// Tidy: leaves of smooth curves, as drawings have. Scribbles: curves that cross themselves, so that every region has to be worked out.
const kinds = {
  tidy(x, y) {
    const r = 1 + random(), k = 2;
    let d = "";
    for (let i = 0; i < k; i++) {
      const t = i * 2 * Math.PI / k, u = (i + 1) * 2 * Math.PI / k, at = (a, q) => `${n(x + q * Math.cos(a))} ${n(y + q * Math.sin(a))}`;
      d += (i ? "" : "M" + at(t, r)) + `C${at(t + 0.9, r * 1.5)} ${at(u - 0.9, r * 1.5)} ${at(u, r)}`;
    }
    return d + "z";
  },
  scribbles(x, y) {
    const c = () => n(random() * 4 - 2);
    return `M${n(x)} ${n(y)}c${c()} ${c()} ${c()} ${c()} ${c()} ${c()}s${c()} ${c()} ${c()} ${c()}l${c()} ${c()}z`;
  },
};
function make(kind) {
  let text = '<svg xmlns="http://www.w3.org/2000/svg" width="1000mm" height="1000mm" viewBox="0 0 1000 1000">\n';
  for (let i = 0; i < 40000; i++) text += `<path fill="${colours[i % 5]}" d="${kinds[kind]((i % 200) * 5 + random(), Math.floor(i / 200) * 5 + random())}"/>\n`;
  writeFileSync(file, text + "</svg>\n");
}
const time = (command, args) => {
  let best = Infinity, memory = 0;
  for (let i = 0; i < 3; i++) {
    const p = spawnSync("/usr/bin/time", ["-f", "%e %M", command, ...args], { maxBuffer: 1 << 30 });
    const [seconds, kilobytes] = p.stderr.toString().trim().split("\n").pop().split(" ").map(Number);
    if (p.status !== 0) throw new Error(p.stderr.toString());
    best = Math.min(best, seconds);
    memory = Math.max(memory, kilobytes / 1024);
  }
  return { best, memory };
};
const reference = `import{Resvg}from"@resvg/resvg-js";import{readFileSync}from"node:fs";new Resvg(readFileSync(${JSON.stringify(file)})).render().asPng()`;
spawnSync(join(here, "..", "falzkunst"), ["help"]);
process.chdir(here);
for (const kind of Object.keys(kinds)) {
  make(kind);
  const ours = time(join(here, "..", "falzkunst"), ["read", file]);
  const theirs = time("node", ["--input-type=module", "-e", reference]);
  console.log(`${kind}, ${(statSync(file).size / 1e6).toFixed(1)} MB: read in ${ours.best} s with ${ours.memory.toFixed(0)} MB; the reference draws it in `
    + `${theirs.best} s: ${(ours.best / theirs.best).toFixed(2)} times`);
}
