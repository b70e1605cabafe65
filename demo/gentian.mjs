// Draws the gentian window card: a base with two doors, and a painted gentian as steps of frames in three plies. Usage: node gentian.mjs
import { readFileSync, writeFileSync, rmSync } from "node:fs";
import { execFileSync } from "node:child_process";
import { fileURLToPath } from "node:url";

const path = name => fileURLToPath(new URL(name, import.meta.url));

// The painting, 104 mm wide: two more on each side than the largest frame, as a painter leaves it.
const petal = turn => `<g transform="rotate(${turn})">
  <path d="M0 0C-9 -8 -16 -20 -9 -34C-6 -40 -2 -43 0 -45C2 -43 6 -40 9 -34C16 -20 9 -8 0 0Z" fill="url(#blue)"/>
  <path d="M0 -6V-40M-3 -8C-6 -18 -6 -26 -4 -36M3 -8C6 -18 6 -26 4 -36" stroke="#1d2c7a" stroke-width=".7" fill="none" opacity=".55"/></g>`;
const fold = turn => `<path transform="rotate(${turn})"
  d="M0 0C-5 -6 -7 -14 0 -24C7 -14 5 -6 0 0Z" fill="#8f9be6" opacity=".85"/>`;
const leaf = (x, y, turn, size) => `<g transform="translate(${x} ${y}) rotate(${turn}) scale(${size})">
  <path d="M0 0C-10 -12 -9 -34 0 -48C9 -34 10 -12 0 0Z" fill="url(#green)"/><path d="M0 -2V-44M-3 -6C-5 -20 -4 -30 -1 -40M3 -6C5 -20 4 -30 1 -40"
  stroke="#35572f" stroke-width=".8" fill="none" opacity=".6"/></g>`;
const spots = Array.from({ length: 160 }, (_, i) => {
  const a = i * 2.39996, r = 5.2 * Math.sqrt(i);
  const x = (52 + r * Math.cos(a)).toFixed(1), y = (52 + r * Math.sin(a)).toFixed(1);
  return `<circle cx="${x}" cy="${y}" r="${(0.4 + i % 5 * 0.18).toFixed(2)}"
    fill="${["#fdfbf0", "#b9c9a4", "#dfe8cf"][i % 3]}" opacity=".6"/>`;
}).join("");
const painting = `<svg xmlns="http://www.w3.org/2000/svg" width="104mm" height="104mm" viewBox="0 0 104 104"><defs>
  <linearGradient id="meadow" x2="0" y2="1"><stop offset="0" stop-color="#cfe0ea"/><stop offset=".55" stop-color="#dfe6c6"/>
  <stop offset="1" stop-color="#9fb681"/></linearGradient>
  <radialGradient id="blue" cy=".9" r="1"><stop offset="0" stop-color="#e6e9ff"/><stop offset=".25" stop-color="#5b6fe0"/>
  <stop offset="1" stop-color="#26318f"/></radialGradient>
  <linearGradient id="green" x2="1"><stop offset="0" stop-color="#5d8a4f"/><stop offset="1" stop-color="#87ad6b"/></linearGradient></defs>
  <rect width="104" height="104" fill="url(#meadow)"/>${spots}
  ${leaf(52, 104, -34, 1.1)}${leaf(52, 104, 34, 1.1)}${leaf(20, 104, -12, 0.8)}${leaf(86, 104, 14, 0.8)}${leaf(52, 106, 0, 0.9)}
  <g transform="translate(52 50)">${[36, 108, 180, 252, 324].map(fold).join("")}${[0, 72, 144, 216, 288].map(petal).join("")}
  <circle r="7" fill="#f3f1c8"/><circle r="3.4" fill="#c9b44a"/></g></svg>`;
writeFileSync(path("gentian.tmp.svg"), painting);
execFileSync(path("../falzkunst"), ["render", path("gentian.tmp.svg"), "--png", path("gentian.tmp.png"), "--dpi", "220"], { stdio: "ignore" });
const png = `data:image/png;base64,${readFileSync(path("gentian.tmp.png")).toString("base64")}`;
rmSync(path("gentian.tmp.svg"));
rmSync(path("gentian.tmp.png"));

// On the middle panel of the base; each frame shows its own part of the painting, and a step of the one below.
const frame = (id, window) => {
  const side = 100, x = 75, y = 12.5, inset = (side - window) / 2;
  const hole = window ? `M${x + inset} ${y + inset}v${window}h${window}v-${window}z` : "";
  return `<g id="${id}"><path d="M${x} ${y}h${side}v${side}h-${side}z${hole}" fill="url(#gentian)" fill-rule="evenodd"/></g>`;
};
writeFileSync(path("gentian-window.svg"), `<svg xmlns="http://www.w3.org/2000/svg" width="250mm" height="125mm" viewBox="0 0 250 125">
<defs><pattern id="gentian" patternUnits="userSpaceOnUse" x="73" y="10.5" width="104" height="104">
<image x="73" y="10.5" width="104" height="104" href="${png}"/></pattern></defs>
<g id="doors"><rect width="250" height="125" fill="#f4ead2"/><path d="M62.5 3V122M187.5 3V122" stroke="#b45f06" stroke-width=".3" stroke-dasharray="4 2"
  fill="none"/></g>
${frame("painting", 0)}
${frame("inner-frame", 60)}
${frame("outer-frame", 80)}
</svg>
`);
