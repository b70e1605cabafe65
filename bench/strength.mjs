// How well, and how fast, thin places are found and strengthened: on shapes of known widths from seeds that nobody tuned with, and on a sheet of words of about
// 20,000 nodes. Usage: node strength.mjs [shapes of each kind] [first seed]
import { execFileSync } from "node:child_process";
import { mkdtempSync, writeFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";

const root = join(dirname(fileURLToPath(import.meta.url)), ".."), [count = "100", seed = "50000"] = process.argv.slice(2);
const folder = mkdtempSync(join(tmpdir(), "falz-strength-"));

/** The lines that a test says of its figures. */
function figures(test, key) {
  const text = execFileSync("dotnet", ["test", join(root, "tests/Falzkunst.Core.Tests"), "-c", "Release", "--filter", `FullyQualifiedName~${test}`, "--logger",
    "console;verbosity=detailed"], { env: { ...process.env, [key]: `${count}@${seed}` }, encoding: "utf8", maxBuffer: 1e9 });
  return text.split("\n").map(l => l.trim()).filter(l => /^thin: |thin places;/.test(l));
}

/** Runs a command of falzkunst, warm from the second time on: what it took beside starting. */
function timed(args) {
  const start = performance.now();
  const answer = execFileSync(join(root, "falzkunst"), args, { encoding: "utf8", maxBuffer: 1e9, stdio: ["ignore", "pipe", "ignore"] });
  return { ms: performance.now() - start, answer: JSON.parse(answer) };
}

try {
  for (const line of [...figures("Thin_places_and_tight_gaps", "FALZKUNST_WIDTHS"), ...figures("What_is_thin_grows", "FALZKUNST_STRENGTHS")]) console.log(line);
  const empty = join(folder, "empty.svg"), steps = join(folder, "steps.json"), sheet = join(folder, "sheet.falz.json"), out = join(folder, "out.svg");
  writeFileSync(empty, `<svg xmlns="http://www.w3.org/2000/svg" width="600mm" height="900mm" viewBox="0 0 600 900"><path d="M1 1h2v2h-2z"/></svg>`);
  const words = Array.from({ length: 36 }, (_, i) => `Bergwiese & hut ${String.fromCharCode(97 + i % 26)} from the pines`).join("\n");
  writeFileSync(steps, JSON.stringify([{ do: "text", words, face: "Courgette", capHeight: 9, at: [5, 20] }]));
  timed(["edit", empty, "--do", steps, "--out", sheet]);
  const idle = Math.min(...[1, 2, 3].map(() => timed(["check", empty, "--min-width", "0.8", "--min-gap", "0.5"]).ms));
  const limits = ["--min-width", "0.8", "--min-gap", "0.5"];
  const check = [1, 2, 3].map(() => timed(["check", sheet, ...limits]));
  const strong = [1, 2, 3].map(() => timed(["strengthen", sheet, ...limits, "--out", out]));
  const least = all => Math.min(...all.map(t => t.ms)) - idle;
  console.log(`a sheet of words: check ${least(check).toFixed(0)} ms, strengthen with both checks ${least(strong).toFixed(0)} ms, `
    + `beside ${idle.toFixed(0)} ms to start`);
  const { before, after, partsBefore, partsAfter, holesBefore, holesAfter } = strong[0].answer;
  console.log(`thin ${before.thin.length} → ${after.thin.length}, narrowest ${before.minWidthMm} → ${after.minWidthMm}, parts ${partsBefore} → ${partsAfter}, `
    + `holes ${holesBefore} → ${holesAfter}`);
} finally {
  rmSync(folder, { recursive: true });
}
