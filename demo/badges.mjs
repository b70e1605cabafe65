// Draws the nine hut badges, and makes the picture of them that the workshop was given: no outlines, on white. Usage: node badges.mjs
import { writeFileSync, rmSync } from "node:fs";
import { execFileSync } from "node:child_process";
import { fileURLToPath } from "node:url";

const path = name => fileURLToPath(new URL(name, import.meta.url));
const petals = Array.from({ length: 8 },
  (_, i) => `<path transform="rotate(${i * 45})" d="M0 -4C5 -9 4 -17 0 -20C-4 -17 -5 -9 0 -4Z" fill="${i % 2 ? "#eef0ea" : "#dfe3da"}"/>`).join("");
const badges = [
  `<circle r="23" fill="#4f7a5a"/>${petals}<circle r="5" fill="#d9a92f"/>`,
  '<path d="M-13 22V-8L0 -22 13 -8V22Z" fill="#7a4a2b"/><path d="M-8 16V-6L0 -14 8 -6V16Z" fill="#f2cf6b"/><path d="M0 12C-5 7 -2 2 0 -4C2 2 5 7 0 12Z" '
    + 'fill="#c4502e"/>',
  '<path d="M-14 -20H2V4C8 6 18 8 20 14V22H-14Z" fill="#8a5a33"/><path d="M-14 17H20V22H-14Z" fill="#3a2a20"/><path d="M-14 -20H2V-14H-14Z" fill="#b8874f"/>',
  '<path d="M-12 -14H12L19 16H-19Z" fill="#c79a3a"/><path d="M-5 -14V-21H5V-14Z" fill="#8f6a22"/><circle cy="19" r="4" fill="#6d5118"/>',
  '<path d="M-17 -12H13V16C13 22 -17 22 -17 16Z" fill="#2f6272"/><path d="M13 -6C25 -8 25 12 13 10V5C18 6 18 -2 13 -1Z" fill="#234b58"/><path d="M-17 '
    + '-12H13V-6H-17Z" fill="#e7e2d4"/>',
  '<path fill-rule="evenodd" d="M0 -22A22 22 0 1 1 -0.1 -22ZM0 -9A9 9 0 1 0 0.1 -9Z" fill="#b5543c"/><path d="M-20 -9L-9 -3 -10 2 -21 -3Z" '
    + 'fill="#e2b7a4"/><path d="M20 9L9 3 10 -2 21 3Z" fill="#e2b7a4"/>',
  '<path d="M0 -24L12 -6H6L16 8H8L19 20H-19L-8 8H-16L-6 -6H-12Z" fill="#2f5d46"/><path d="M-3 20H3V25H-3Z" fill="#6b4a30"/>',
  '<path d="M0 -23L6 -7 23 -7 10 4 15 21 0 11 -15 21 -10 4 -23 -7 -6 -7Z" fill="#d8b23c"/><circle r="6" fill="#f4e6b8"/>',
  '<path d="M-14 22C-24 4 -14 -12 -8 -14C-10 -22 -2 -24 0 -19C2 -24 10 -22 8 -14C14 -12 24 4 14 22Z" fill="#9a8468"/><circle cx="-5" cy="-8" r="2" '
    + 'fill="#2b2420"/><circle cx="5" cy="-8" r="2" fill="#2b2420"/><path d="M-9 20C-12 6 12 6 9 20Z" fill="#cdbb9f"/>',
];
const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="180mm" height="180mm" viewBox="0 0 180 180"><rect width="180" height="180" `
  + `fill="#fff"/>${badges.map((b, i) => `<g transform="translate(${30 + i % 3 * 60} ${30 + Math.floor(i / 3) * 60})">${b}</g>`).join("")}</svg>`;
writeFileSync(path("badges.tmp.svg"), svg);
execFileSync(path("../falzkunst"), ["render", path("badges.tmp.svg"), "--png", path("hut-badges.png"), "--dpi", "127"], { stdio: "ignore" });
rmSync(path("badges.tmp.svg"));
