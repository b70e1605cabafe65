// Draws the demo designs of the Papierwerkstatt Murmeltier as a designer would hand them over, mess included.
// Usage: npm install && node make.mjs
import { readFileSync, writeFileSync } from "node:fs";

// ---- letters: the glyphs of a single-line font (y up, 1000 units an em) as polylines in mm -------------------------------------------
const font = readFileSync(new URL("./node_modules/hersheytext/svg_fonts/EMSReadability.svg", import.meta.url), "utf8");
const glyphs = new Map([...font.matchAll(/<glyph\b[^>]*>/g)].map(m => {
  const get = name => (m[0].match(new RegExp(`${name}="([^"]*)"`)) ?? [])[1];
  return [(get("unicode") ?? "").replace("&amp;", "&"), { d: get("d") ?? "", advance: Number(get("horiz-adv-x") ?? 500) }];
}));
const r = v => String(Math.round(v * 1000) / 1000);
function letters(text, x, y, em, turned = false) {
  const scale = em / 1000;
  let width = 0;
  for (const c of text) width += (glyphs.get(c)?.advance ?? 400) * scale;
  let at = -width / 2, d = "";
  for (const c of text) {
    const g = glyphs.get(c) ?? { d: "", advance: 400 };
    d += g.d.replace(/([ML])\s*([-\d.e]+)[ ,]+([-\d.e]+)/g, (_, command, gx, gy) => {
      let px = at + gx * scale, py = -gy * scale;
      if (turned) [px, py] = [-px, -py];
      return `${command}${r(x + px)} ${r(y + py)}`;
    });
    at += g.advance * scale;
  }
  return d;
}

let seed = 20;
const random = () => (seed = (seed * 16807) % 2147483647) / 2147483647;
const ridge = (points, bottom) => `M${points[0][0]} ${bottom}` + points.map(([x, y]) => `L${r(x)} ${r(y)}`).join("") + `L${points.at(-1)[0]} ${bottom}Z`;
const soft = (points, bottom) => {
  let d = `M${points[0][0]} ${bottom}L${points[0][0]} ${points[0][1]}`;
  for (let i = 1; i < points.length; i++) {
    const [x0, y0] = points[i - 1], [x1, y1] = points[i], m = (x0 + x1) / 2;
    d += `C${r(m)} ${r(y0)} ${r(m)} ${r(y1)} ${r(x1)} ${r(y1)}`;
  }
  return d + `L${points.at(-1)[0]} ${bottom}Z`;
};

// ---- 1. Fernblick thank-you card: a lump with a transform on everything; the fold drawn like a cut; a door drawn twice -----------------
function pines() {
  const base = 202, ground = 192;
  let d = `M6 ${base}L6 ${ground}`;
  for (let i = 0; i < 13; i++) {
    const x = 11.5 + i * 10.4, h = 14 + random() * 9, top = ground - h, w = 3.4 + random();
    // A trunk of 0.4 mm, then three tiers of branches up to the tip and down again.
    const half = [], tiers = 3;
    for (let t = 0; t < tiers; t++) {
      const y = ground - 3 - t * (h - 4) / tiers;
      half.push([w * (1 - t / tiers), y], [w * (1 - t / tiers) * 0.45, y - (h - 4) / tiers * 0.8]);
    }
    d += `L${r(x - 0.2)} ${ground}L${r(x - 0.2)} ${ground - 3}` + half.map(([a, y]) => `L${r(x - a)} ${r(y)}`).join("") + `L${r(x)} ${r(top)}`
      + half.reverse().map(([a, y]) => `L${r(x + a)} ${r(y)}`).join("") + `L${r(x + 0.2)} ${ground - 3}L${r(x + 0.2)} ${ground}`;
  }
  return d + `L142 ${ground}L142 ${base}Z`;
}
const cloud = (x, y, s) => `M${r(x)} ${r(y)}`
  + `c${r(-3 * s)} 0 ${r(-4 * s)} ${r(-4 * s)} ${r(-0.5 * s)} ${r(-4.6 * s)}c0 ${r(-3.6 * s)} ${r(5 * s)} ${r(-4.4 * s)} ${r(6.2 * s)} ${r(-1.2 * s)}`
  + `c${r(2.4 * s)} ${r(-1.6 * s)} ${r(5.2 * s)} ${r(0.4 * s)} ${r(4.4 * s)} ${r(2.6 * s)}`
  + `c${r(2.6 * s)} ${r(0.6 * s)} ${r(2 * s)} ${r(3.2 * s)} ${r(-0.6 * s)} ${r(3.2 * s)}Z`;
const door = "M112.5 184L112.5 177.5L115.5 177.5L115.5 184";
writeFileSync(new URL("./fernblick-thank-you.svg", import.meta.url),
  `<svg xmlns="http://www.w3.org/2000/svg" width="148mm" height="210mm" viewBox="0 0 1480 2100">
<g transform="scale(10)">
<path id="base" fill="#f5ecd6" d="M0 0H148V210H0Z"/>
<path id="sky" fill="#64809a" d="M6 111H142V204H6Z"/>
<path id="snow-ridge" fill="#fdfdfb" d="${ridge([[6, 163], [18, 152], [27, 157], [41, 141], [50, 149], [58, 145], [74, 159],
  [88, 147], [96, 152], [112, 138], [126, 153], [134, 149], [142, 157]], 176)}"/>
<path id="far-ridge" fill="#7f97ab" d="${soft([[6, 168], [24, 161], [44, 168], [66, 160], [90, 170], [114, 159], [142, 167]], 184)}"/>
<path id="near-ridge" fill="#5b7891" d="${soft([[6, 176], [30, 170], [58, 178], [84, 171], [110, 180], [142, 172]], 192)}"/>
<path id="slope" fill="#3a6650" d="${soft([[6, 184], [40, 188], [74, 180], [104, 185], [142, 180]], 198)}"/>
<path id="pines" fill="#264f3d" d="${pines()}"/>
<path id="cloud" fill="#fdfdfb" d="${cloud(22, 142, 1)}"/>
<path id="cloud" fill="#fdfdfb" d="${cloud(13, 124, 0.8)}"/>
<path id="cloud" fill="#fdfdfb" d="${cloud(124, 132, 0.7)}"/>
<path id="hut" fill="#f5ecd6" d="M106 184V174L114 167L122 174V184Z M117.4 176.4h2.6v2.6h-2.6Z" fill-rule="evenodd"/>
<path id="roof" fill="#b86842" d="M103.5 175L114 165.4L124.5 175L122.8 176.4L114 168.6L105.2 176.4Z"/>
<path id="chimney" fill="#b86842" d="M119 166h2.4v4h-2.4Z"/>
<path id="bench" fill="#b86842" d="M86 182h12v1.6h-1.4v3h-1.4v-3h-6.4v3h-1.4v-3H86Z"/>
<g id="foil" fill="none" stroke="#b4623a" stroke-width=".5">
${[8, 6.4, 4.8, 3.2, 1.6].map(q => `<circle cx="104" cy="127" r="${q}"/>`).join("")}
</g>
<g id="words" fill="none" stroke="#5a3a8c" stroke-width=".35">
<path d="${letters("with thanks", 58, 126, 9)}"/>
<path d="${letters("from the hut", 58, 137, 6)}"/>
<path d="${letters("made at the Murmeltier bench", 74, 24, 5, true)}"/>
</g>
<g fill="none" stroke="#d0312d" stroke-width=".1">
<path d="M6 105H142"/>
<path d="${door}"/>
<path d="${door}"/>
</g>
</g>
</svg>
`);

// ---- 5. Lantern on vellum: stroke-only, a dashed fold, pixels without a physical size -------------------------------------------------
const px = v => r(v * 96 / 25.4);
const at = (x, y) => `${px(x)} ${px(y)}`;
const poly = (points, close = true) => "M" + points.map(([x, y]) => at(x, y)).join("L") + (close ? "Z" : "");
const scaled = d => d.replace(/-?\d+(\.\d+)?/g, n => px(Number(n)));
writeFileSync(new URL("./lantern-vellum.svg", import.meta.url), `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${px(210)} ${px(148)}">
<style>path{fill:none;stroke:#000;stroke-width:1px} .b{stroke:#4a6572} .k{stroke-dasharray:9 5}</style>
<path d="${poly([[2, 2], [208, 2], [208, 146], [2, 146]])}"/>
<path class="k" d="${poly([[105, 2], [105, 146]], false)}"/>
<g id="deboss-lantern">
<path class="b" d="${poly([[143, 58], [173, 58], [178, 104], [138, 104]])}"/>
<path class="b" d="${poly([[147, 63], [169, 63], [173, 99], [143, 99]])}"/>
<path class="b" d="${poly([[140, 104], [176, 104], [176, 110], [140, 110]])}"/>
<path class="b" d="${poly([[146, 58], [158, 44], [170, 58]])}"/>
<path class="b" d="M${at(158, 36)}A${px(4)} ${px(4)} 0 1 1 ${at(157.9, 36)}Z"/>
<path class="b" d="M${at(158, 70)}C${at(166, 80)} ${at(163, 92)} ${at(158, 92)}C${at(153, 92)} ${at(150, 80)} ${at(158, 70)}Z"/>
<path class="b" d="${poly([[158, 63], [158, 69]], false)}"/>
</g>
<g id="deboss words"><path class="b" d="${scaled(letters("light in the window", 158, 128, 8))}"/></g>
</svg>
`);

// ---- 6. Room-key tags: stroke-only, everything one lump, folds as rows of little strokes, an envelope C6 with its folds -------------------
const segments = { a: [0, 0, 1, 0], b: [1, 0, 1, 1], c: [1, 1, 1, 2], d: [0, 2, 1, 2], e: [0, 1, 0, 2], f: [0, 0, 0, 1], g: [0, 1, 1, 1] };
const digits = { 1: "bc", 2: "abged", 3: "abgcd", 4: "fgbc", 5: "afgcd", 6: "afgedc", 7: "abc", 8: "abcdefg" };
// Punched numbers are slots with bridges between them, so that nothing falls out.
const digit = (n, x, y, s) => [...digits[n]].map(k => {
  const [x0, y0, x1, y1] = segments[k], w = 1.1, gap = 0.9;
  return x0 === x1
    ? [[x + x0 * s - w / 2, y + y0 * s + gap], [x + x0 * s + w / 2, y + y0 * s + gap],
      [x + x0 * s + w / 2, y + y1 * s - gap], [x + x0 * s - w / 2, y + y1 * s - gap]]
    : [[x + x0 * s + gap, y + y0 * s - w / 2], [x + x1 * s - gap, y + y0 * s - w / 2],
      [x + x1 * s - gap, y + y0 * s + w / 2], [x + x0 * s + gap, y + y0 * s + w / 2]];
}).map(p => poly(p)).join("");
let tags = "";
for (let i = 0; i < 8; i++) {
  const x = 6 + (i % 4) * 46, y = 6 + Math.floor(i / 4) * 104, w = 40, h = 96;
  tags += `<path d="M${at(x + 8, y)}H${px(x + w - 8)}L${at(x + w, y + 12)}V${px(y + h)}H${px(x)}V${px(y + 12)}Z"/>`;
  tags += `<path d="M${at(x + 14, y + 7)}H${px(x + 26)}a${px(1.5)} ${px(1.5)} 0 0 1 0 ${px(3)}H${px(x + 14)}a${px(1.5)} ${px(1.5)} 0 0 1 0 ${px(-3)}Z"/>`;
  tags += `<path d="${digit(i + 1, x + 14, y + 28, 12)}"/>`;
  for (let s = 0; s < 12; s++) tags += `<path d="${poly([[x + 1.6 + s * 3.2, y + 78], [x + 3.2 + s * 3.2, y + 78]], false)}"/>`;
}
const e = [200, 40];
const envelope = `<path d="${poly([[e[0] + 18, e[1] + 60], [e[0] + 30, e[1] + 20], [e[0] + 150, e[1] + 20], [e[0] + 162, e[1] + 60], [e[0] + 180, e[1] + 68],
  [e[0] + 180, e[1] + 166], [e[0] + 162, e[1] + 174], [e[0] + 150, e[1] + 264], [e[0] + 30, e[1] + 264],
  [e[0] + 18, e[1] + 174], [e[0], e[1] + 166], [e[0], e[1] + 68]])}"/>`
  + [[[18, 60], [162, 60]], [[18, 174], [162, 174]], [[18, 60], [18, 174]], [[162, 60], [162, 174]]]
    .map(l => `<path stroke-dasharray="6 4" d="${poly(l.map(([x, y]) => [e[0] + x, e[1] + y]), false)}"/>`).join("");
writeFileSync(new URL("./room-key-tags.svg", import.meta.url),
  `<svg xmlns="http://www.w3.org/2000/svg" width="${px(390)}" height="${px(320)}" viewBox="0 0 ${px(390)} ${px(320)}">
<g fill="none" stroke="#333" stroke-width="0.75">${tags}${envelope}</g>
</svg>
`);

// ---- In the library: a sheet of 24 sayings of the hut in single-line letters, each in one or two lines, to take from --------------------
const sayings = [
  "the kettle|is always on", "boots off,|feet up", "first the bench,|then the view", "mind the step,|mind the marmot", "snow today,|soup tonight",
  "one more cup|for the road",
  "the lamp stays lit", "who carries wood|gets cake", "gone up,|back by dusk", "a rope holds|two", "slow is|also up", "the last hut|before the sky",
  "thank you|for the quiet", "weather: yes", "leave the door|as you found it", "ask the cook", "long path,|short night", "welcome back,|you smell of pine",
  "room for one more", "the ridge|can wait", "warm hands,|warm bread", "the cowbell knows", "see you|at the spring", "sleep well|under the roof",
];
const [across, wide, high] = [4, 62, 30];
const down = Math.ceil(sayings.length / across);
writeFileSync(new URL("./hut-sayings.svg", import.meta.url), `<!-- drawn at the Murmeltier bench -->
<svg xmlns="http://www.w3.org/2000/svg" width="${across * wide}mm" height="${down * high}mm" viewBox="0 0 ${across * wide} ${down * high}">
<g fill="none" stroke="#23262e" stroke-width=".3">
${sayings.map((s, i) => {
  const lines = s.split("|"), x = (i % across + 0.5) * wide, y = (Math.floor(i / across) + 0.5) * high;
  return `<g>${lines.map((l, n) => `<path d="${letters(l, x, y + (n - (lines.length - 1) / 2) * 6.5 + 1.5, 6)}"/>`).join("")}</g>`;
}).join("\n")}
</g>
</svg>
`);
