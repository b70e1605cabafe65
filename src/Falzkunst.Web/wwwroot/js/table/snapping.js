// What a dragged box catches: edges and middles of pieces and panels. Pure; the candidates come as data with the pieces.

// New words keep as far from the edges of a panel.
const MarginMm = 8;

/** Reads "left top width height" as a box. */
export function readBox(text) {
  const [left, top, width, height] = text.split(" ").map(Number);
  return { left, top, right: left + width, bottom: top + height };
}

/** The box around boxes. */
export const around = boxes => boxes.reduce((a, b) => ({
  left: Math.min(a.left, b.left), top: Math.min(a.top, b.top), right: Math.max(a.right, b.right), bottom: Math.max(a.bottom, b.bottom),
}));

export const isWithin = (inner, outer) => inner.left >= outer.left && inner.right <= outer.right && inner.top >= outer.top && inner.bottom <= outer.bottom;

/** The panels of a piece, as they are written with it: "front panel|0 105 148 105;…". */
export const readPanels = text => text
  ? text.split(";").map(p => ({
  name: p.slice(0, p.lastIndexOf("|")), box: readBox(p.slice(p.lastIndexOf("|") + 1)), isPanel: true,
})) : [];

/**
 * What can be caught of named boxes, across (x) and down (y), each from small to large. Of several in one place the panel counts, and else the largest:
 * that is what people mean.
 */
export function candidates(named, more = { x: [], y: [] }) {
  const x = [...more.x], y = [...more.y];
  for (const { name, box, isPanel } of named) {
    const weight = isPanel ? Infinity : (box.right - box.left) * (box.bottom - box.top), middle = `middle of ${name}`;
    x.push({ at: box.left, text: `left edge of ${name}`, weight }, { at: (box.left + box.right) / 2, text: middle, weight },
      { at: box.right, text: `right edge of ${name}`, weight });
    y.push({ at: box.top, text: `top edge of ${name}`, weight }, { at: (box.top + box.bottom) / 2, text: middle, weight },
      { at: box.bottom, text: `bottom edge of ${name}`, weight });
    if (!isPanel || box.right - box.left < 4 * MarginMm || box.bottom - box.top < 4 * MarginMm) continue;
    const margin = `margin of ${name}`;
    x.push({ at: box.left + MarginMm, text: margin, weight: 0 }, { at: box.right - MarginMm, text: margin, weight: 0 });
    y.push({ at: box.top + MarginMm, text: margin, weight: 0 }, { at: box.bottom - MarginMm, text: margin, weight: 0 });
  }
  return { x: oneAPlace(x), y: oneAPlace(y) };
}

function oneAPlace(list) {
  const Same = 0.005, kept = [];
  for (const candidate of list.sort((a, b) => a.at - b.at)) {
    const before = kept.at(-1);
    if (!before || candidate.at - before.at > Same) kept.push(candidate);
    else if (candidate.weight > before.weight) kept[kept.length - 1] = candidate;
  }
  return kept;
}

/** The candidate nearest to a place; the list is sorted. */
export function nearest(list, at) {
  let low = 0, high = list.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (list[middle].at < at) low = middle + 1;
    else high = middle;
  }
  const [before, after] = [list[low - 1], list[low]];
  if (!before || !after) return before ?? after;
  return at - before.at <= after.at - at ? before : after;
}

function along(ends, by, list, within) {
  let best = null;
  for (const end of ends) {
    const found = nearest(list, end + by);
    if (!found) continue;
    const off = found.at - (end + by);
    // An end is caught before a middle that is as near.
    if (Math.abs(off) <= within && (!best || Math.abs(off) < Math.abs(best.off) - 1e-9)) best = { off, at: found.at, text: found.text };
  }
  return best;
}

/**
 * Where the first end of a thing lies so that the gaps in its row are equal: in the middle between two neighbours, or as far behind one as that is from the
 * next. Each box as [from, to] along the row; the others in any order.
 */
export function equalGaps([from, to], others) {
  const size = to - from, middle = (from + to) / 2;
  const before = others.filter(o => (o[0] + o[1]) / 2 < middle).sort((a, b) => b[1] - a[1]);
  const after = others.filter(o => (o[0] + o[1]) / 2 >= middle).sort((a, b) => a[0] - b[0]);
  const places = [];
  if (before[0] && after[0]) places.push((before[0][1] + after[0][0] - size) / 2);
  if (before[1] && before[0][0] >= before[1][1]) places.push(before[0][1] + before[0][0] - before[1][1]);
  if (after[1] && after[1][0] >= after[0][1]) places.push(after[0][0] - (after[1][0] - after[0][1]) - size);
  return places.map(at => ({ at, text: "equal gaps", weight: 0 }));
}

function even(box, dx, dy, boxes, within) {
  const now = { left: box.left + dx, right: box.right + dx, top: box.top + dy, bottom: box.bottom + dy };
  const row = boxes.filter(b => b.top < now.bottom && b.bottom > now.top && (b.right <= now.left + within || b.left >= now.right - within));
  const column = boxes.filter(b => b.left < now.right && b.right > now.left && (b.bottom <= now.top + within || b.top >= now.bottom - within));
  const best = (from, places) => {
    const near = places.reduce((a, c) => Math.abs(c.at - from) < Math.abs((a?.at ?? Infinity) - from) ? c : a, null);
    return near && Math.abs(near.at - from) <= within ? { off: near.at - from, at: near.at, text: near.text } : null;
  };
  return { x: best(now.left, equalGaps([now.left, now.right], row.map(b => [b.left, b.right]))),
    y: best(now.top, equalGaps([now.top, now.bottom], column.map(b => [b.top, b.bottom]))) };
}

/** Where a box that is dragged by (dx, dy) comes to lie, and what it caught on the way: for x and y the line's place and its words, or null. */
export function snapped(box, dx, dy, found, within) {
  const gaps = found.boxes ? even(box, dx, dy, found.boxes, within) : {};
  const x = along([box.left, box.right, (box.left + box.right) / 2], dx, found.x, within) ?? gaps.x;
  const y = along([box.top, box.bottom, (box.top + box.bottom) / 2], dy, found.y, within) ?? gaps.y;
  return { dx: dx + (x?.off ?? 0), dy: dy + (y?.off ?? 0), x: x ?? null, y: y ?? null };
}
