// Guides, which are dragged from the rulers, and the grid: aids to place things by, kept in this browser and no part of the card.
import { svgElement } from "./svg.js";
import { lengthText } from "./view.js";

const RulerPx = 20, GrabPx = 7, FinestPx = 5;

const read = key => {
  try {
    return JSON.parse(localStorage.getItem(key)) ?? {};
  } catch {
    return {};
  }
};

/** The places of a grid between two, at most so many. Pure. */
export function gridPlaces(from, to, step, most = 400) {
  if (!(step > 0) || (to - from) / step > most) return [];
  const places = [];
  for (let k = Math.ceil(from / step); k * step <= to; k++) places.push(k * step);
  return places;
}

export class Lines {
  constructor(table) {
    this.table = table;
    this.key = `lines/${document.getElementById("docket").dataset.docket}`;
    this.kept = { x: [], y: [], step: 0, how: "lines", catches: false, ...read(this.key) };
    this.svg = svgElement("svg", { class: "lines-svg", preserveAspectRatio: "none" });
    table.area.append(this.svg);
  }

  /** What a dragged thing can be caught by, beside what lies on the table. */
  candidates() {
    const found = { x: [], y: [] }, { view } = this.table;
    for (const side of ["x", "y"]) {
      for (const at of this.kept[side]) found[side].push({ at, text: "a guide", weight: Infinity });
      const from = view[side], to = from + (side === "x" ? view.w : view.h);
      if (this.kept.catches) for (const at of gridPlaces(from, to, this.kept.step)) found[side].push({ at, text: "the grid", weight: -1 });
    }
    return found;
  }

  /** Begins to drag a guide, out of a ruler or one that is there; null where none is meant. */
  press(event) {
    const box = this.table.area.getBoundingClientRect(), x = event.clientX - box.left, y = event.clientY - box.top;
    const fresh = y < RulerPx && x > RulerPx ? "y" : x < RulerPx + 14 && y > RulerPx ? "x" : null;
    if (fresh) return { side: fresh, index: null };
    const p = this.table.at(event), within = GrabPx * this.table.mmPerPixel();
    for (const side of ["x", "y"]) {
      const index = this.kept[side].findIndex(at => Math.abs(at - p[side]) <= within);
      if (index >= 0 && !event.target.closest(".piece, .line, .handle")) return { side, index };
    }
    return null;
  }

  /** A guide under way. Over its ruler again it is gone. */
  drag(guide, event) {
    const { side } = guide, list = this.kept[side];
    if (guide.index === null) [guide.index, guide.isNew] = [list.push(0) - 1, true];
    else if (!guide.isNew) guide.was ??= list[guide.index];
    const found = event.altKey ? null : this.table.catches(new Set(), false)[side], at = this.table.at(event)[side];
    const near = found?.reduce((best, c) => Math.abs(c.at - at) < Math.abs((best?.at ?? Infinity) - at) ? c : best, null);
    list[guide.index] = near && Math.abs(near.at - at) <= GrabPx * this.table.mmPerPixel() ? near.at : at;
    this.draw(`${lengthText(list[guide.index], this.table.unit())} from the ${side === "x" ? "left" : "top"}`, guide);
  }

  drop(guide, event) {
    const box = this.table.area.getBoundingClientRect();
    const over = guide.side === "y" ? event.clientY - box.top < RulerPx : event.clientX - box.left < RulerPx + 14;
    if (over && guide.index !== null) this.kept[guide.side].splice(guide.index, 1);
    this.#keep();
  }

  /** The guide is where it was, or is none. */
  giveUp(guide) {
    if (guide.was === undefined) this.kept[guide.side].splice(guide.index ?? Infinity, 1);
    else this.kept[guide.side][guide.index] = guide.was;
    this.draw();
  }

  /** @param {{ step?: number, how?: string, catches?: boolean }} next */
  set(next) {
    Object.assign(this.kept, next);
    this.#keep();
  }

  clear() {
    this.set({ x: [], y: [] });
  }

  #keep() {
    const { x, y, step, how, catches } = this.kept;
    localStorage.setItem(this.key, JSON.stringify({ x, y, step, how, catches }));
    this.draw();
  }

  draw(words, guide) {
    const { x, y, w, h } = this.table.view, px = this.table.mmPerPixel(), { step, how } = this.kept;
    this.svg.setAttribute("viewBox", `${x} ${y} ${w} ${h}`);
    this.svg.replaceChildren();
    if (step / px >= FinestPx && how !== "none") {
      const xs = gridPlaces(x, x + w, step), ys = gridPlaces(y, y + h, step);
      if (how === "dots") this.svg.append(svgElement("path", { class: "grid dots", "stroke-width": 2.4 * px,
        d: ys.map(b => xs.map(a => `M${a} ${b}h0`).join("")).join("") }));
      else this.svg.append(svgElement("path", { class: "grid", d: xs.map(a => `M${a} ${y}v${h}`).join("") + ys.map(b => `M${x} ${b}h${w}`).join("") }));
    }
    for (const [side, list] of [["x", this.kept.x], ["y", this.kept.y]]) for (const at of list)
      this.svg.append(svgElement("path", { class: "guide", d: side === "x" ? `M${at} ${y}v${h}` : `M${x} ${at}h${w}` }));
    if (!words) return;
    const at = this.kept[guide.side][guide.index];
    this.svg.append(svgElement("text", { class: "guide-says", "font-size": 14 * px, "stroke-width": 4 * px,
      x: guide.side === "x" ? at + 6 * px : x + 50 * px, y: guide.side === "x" ? y + 60 * px : at - 6 * px }, words));
  }
}
