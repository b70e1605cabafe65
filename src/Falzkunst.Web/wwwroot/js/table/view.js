// Pure functions for the view of the table: a view is { x, y, w, h } in mm.

/** Reads a view from the text of a viewBox. */
export function readView(text) {
  const [x, y, w, h] = text.trim().split(/[\s,]+/).map(Number);
  return { x, y, w, h };
}

export const writeView = v => `${v.x} ${v.y} ${v.w} ${v.h}`;

/** The view that shows all of `home` in a window of the given size, clear of what lies along its edges, with the same scale both ways. */
export function fitView(home, width, height, { left = 0, top = 0, bottom = 0 } = {}) {
  // In a window as small as a slip what lies along its edges lies over it.
  const least = 40;
  if (height - top - bottom < least) [top, bottom] = [0, 0];
  if (width - left < least) left = 0;
  const scale = Math.min((width - left) / home.w, (height - top - bottom) / home.h);
  const w = width / scale, h = height / scale;
  return { x: home.x - (w - home.w + left / scale) / 2, y: home.y - (h - home.h + (top - bottom) / scale) / 2, w, h };
}

/** Zooms by a factor about a point (in mm), between 1/40 and 8 times of `home`. */
export function zoomView(view, factor, at, home) {
  const w = Math.min(home.w * 8, Math.max(home.w / 40, view.w / factor));
  const f = w / view.w;
  return { x: at.x - (at.x - view.x) * f, y: at.y - (at.y - view.y) * f, w, h: view.h * f };
}

export const moveView = (view, dx, dy) => ({ ...view, x: view.x + dx, y: view.y + dy });

/** The marks of a ruler between two lengths: steps of 1, 2 or 5, about `wanted` px apart. In inches the steps are halves and their like. */
export function rulerMarks(from, to, pixels, unit) {
  const perUnit = unit === "in" ? 25.4 : 1;
  const [a, b] = [from / perUnit, to / perUnit];
  const steps = unit === "in" ? [0.125, 0.25, 0.5, 1, 2, 5, 10, 20, 50] : [1, 2, 5, 10, 20, 50, 100, 200, 500, 1000];
  const step = steps.find(s => s / (b - a) * pixels >= 44) ?? steps.at(-1);
  const marks = [];
  for (let v = Math.ceil(a / step) * step; v <= b; v += step) marks.push({ at: (v - a) / (b - a) * pixels, label: String(Math.round(v * 1000) / 1000) });
  return marks;
}

/** The second end of a measure, made level with or plumb over the first, whichever is nearer. */
export const straightened = (from, to) => Math.abs(to.x - from.x) >= Math.abs(to.y - from.y) ? { ...to, y: from.y } : { ...to, x: from.x };

/** A length in the unit of the person, as the fields of the page take it. */
export const lengthText = (mm, unit) => unit === "in" ? `${+(mm / 25.4).toFixed(3)} in` : `${+mm.toFixed(2)} mm`;

/** A measure in words: the distance, and where it is neither level nor plumb how far it goes across and down. */
export function measured(from, to, unit) {
  const say = mm => lengthText(mm, unit);
  const dx = Math.abs(to.x - from.x), dy = Math.abs(to.y - from.y);
  const whole = say(Math.hypot(dx, dy));
  return dx < 0.005 || dy < 0.005 ? whole : `${whole} (${say(dx)} across, ${say(dy)} down)`;
}
