// What a dragged box catches: edges and middles of pieces and panels. Pure; the candidates come as data with the pieces.

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
export function candidates(named) {
  const x = [], y = [];
  for (const { name, box, isPanel } of named) {
    const weight = isPanel ? Infinity : (box.right - box.left) * (box.bottom - box.top), middle = `middle of ${name}`;
    x.push({ at: box.left, text: `left edge of ${name}`, weight }, { at: (box.left + box.right) / 2, text: middle, weight },
      { at: box.right, text: `right edge of ${name}`, weight });
    y.push({ at: box.top, text: `top edge of ${name}`, weight }, { at: (box.top + box.bottom) / 2, text: middle, weight },
      { at: box.bottom, text: `bottom edge of ${name}`, weight });
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

/** Where a box that is dragged by (dx, dy) comes to lie, and what it caught on the way: for x and y the line's place and its words, or null. */
export function snapped(box, dx, dy, found, within) {
  const x = along([box.left, box.right, (box.left + box.right) / 2], dx, found.x, within);
  const y = along([box.top, box.bottom, (box.top + box.bottom) / 2], dy, found.y, within);
  return { dx: dx + (x?.off ?? 0), dy: dy + (y?.off ?? 0), x, y };
}
