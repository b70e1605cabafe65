// Jigsaws: a sheet cut apart by lines, so that it is known that its pieces fill it whole; and other requests to lay out. Deterministic for a seed.
export const chance = seed => () => {
  seed = (seed + 0x6d2b79f5) | 0;
  let t = Math.imul(seed ^ (seed >>> 15), 1 | seed);
  t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
  return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
};

const area = ring => ring.reduce((sum, [x, y], i) => { const [u, v] = ring[(i + 1) % ring.length]; return sum + x * v - u * y; }, 0) / 2;

// Both sides of a polygon along a line through a point.
function cut(ring, [px, py], [dx, dy]) {
  const side = ([x, y]) => (x - px) * dy - (y - py) * dx;
  const sides = [[], []];
  ring.forEach((a, i) => {
    const b = ring[(i + 1) % ring.length], s = side(a), t = side(b);
    sides[s >= 0 ? 0 : 1].push(a);
    if (s * t < 0) {
      const at = s / (s - t), p = [a[0] + (b[0] - a[0]) * at, a[1] + (b[1] - a[1]) * at];
      sides[0].push(p);
      sides[1].push(p);
    }
  });
  return sides.filter(r => r.length > 2);
}

/** A sheet of a width and height in so many pieces, the largest cut again and again; by a line a little askew. */
export function jigsaw(seed, pieces, width, height) {
  const next = chance(seed);
  const all = [[[0, 0], [width, 0], [width, height], [0, height]]];
  while (all.length < pieces) {
    all.sort((a, b) => area(b) - area(a));
    const ring = all.shift(), n = ring.length;
    const cx = ring.reduce((s, p) => s + p[0], 0) / n, cy = ring.reduce((s, p) => s + p[1], 0) / n;
    const xs = ring.map(p => p[0]), ys = ring.map(p => p[1]);
    const wide = Math.max(...xs) - Math.min(...xs), high = Math.max(...ys) - Math.min(...ys);
    const angle = (wide > high ? Math.PI / 2 : 0) + (next() - 0.5) * 1.2;
    const at = [cx + (next() - 0.5) * wide * 0.2, cy + (next() - 0.5) * high * 0.2];
    const parts = cut(ring, at, [Math.cos(angle), Math.sin(angle)]);
    if (parts.length === 2 && parts.every(r => Math.abs(area(r)) > 0.15 * Math.abs(area(ring)))) all.push(...parts);
    else all.push(ring);
  }
  return all;
}

export const turned = (ring, degrees) => {
  const t = degrees * Math.PI / 180;
  return ring.map(([x, y]) => [x * Math.cos(t) - y * Math.sin(t), x * Math.sin(t) + y * Math.cos(t)]);
};

export const path = (ring, digits = 5) => "M" + ring.map(([x, y]) => `${x.toFixed(digits)} ${y.toFixed(digits)}`).join("L") + "Z";

/** A request for a jigsaw on sheets that are larger by a share on each side. */
export function puzzle(seed, pieces, { turns = "quarter", larger = 0.02, width = 200, height = 280, count = 5, digits = 5 } = {}) {
  const next = chance(seed * 31 + 7);
  const by = () => turns === "none" ? 0 : turns === "half" ? 180 * Math.floor(next() * 2) : turns === "quarter" ? 90 * Math.floor(next() * 4) : next() * 360;
  return { gapMm: 0, sheets: [{ id: "s", widthMm: width * (1 + larger), heightMm: height * (1 + larger), marginMm: 0, count }],
    pieces: jigsaw(seed, pieces, width, height).map((r, i) => ({ id: `p${i}`, path: path(turned(r, by()), digits), count: 1, turns })) };
}
