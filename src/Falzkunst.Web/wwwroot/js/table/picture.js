// A picture of things of the table in a layer of its own, which alone is moved while something is dragged: a frame costs the same whatever lies on the table.
import { svgElement, thing } from "./svg.js";

export class Picture {
  constructor(table, ids) {
    this.table = table;
    this.things = ids.map(id => thing(table.svg, id)).filter(Boolean);
    this.svg = svgElement("svg", { class: `drag-svg ${table.svg.classList.contains("is-small") ? "is-small" : ""}`,
      viewBox: table.svg.getAttribute("viewBox"), preserveAspectRatio: "none" });
    this.svg.append(...this.things.map(inPlace));
    this.words = document.createElement("p");
    this.words.className = "drag-says";
    table.area.append(this.svg, this.words);
    for (const t of this.things) t.classList.add("is-away");
  }

  /** @param {string} transform in CSS @param {{ x: number, y: number }} [about] the place that stays, in mm */
  map(transform, about) {
    this.svg.style.transform = transform;
    if (!about) return;
    const { view } = this.table, { width, height } = this.table.size();
    this.svg.style.transformOrigin = `${(about.x - view.x) / view.w * width}px ${(about.y - view.y) / view.h * height}px`;
  }

  say(words) {
    this.words.textContent = words;
  }

  /** Nothing more is said; the picture stays until the server has answered. */
  quiet() {
    this.words.remove();
  }

  remove() {
    for (const part of [this.svg, this.words]) part.remove();
    for (const t of this.things) t.classList.remove("is-away");
  }
}

/** A thing where it is seen: what a piece carries lies as that does. */
function inPlace(thing) {
  const picture = thing.cloneNode(true), by = thing.matches(".line") && thing.closest(".piece");
  if (!by) return picture;
  const g = svgElement("g", by.hasAttribute("transform") ? { transform: by.getAttribute("transform") } : {});
  g.append(picture);
  return g;
}
