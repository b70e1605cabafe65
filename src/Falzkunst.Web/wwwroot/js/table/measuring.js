// Measuring from point to point: the server says what a point caught, a corner first; the distance between two points is all that is reckoned here.
import { measured, straightened } from "./view.js";
import { svgElement } from "./svg.js";

export class Measuring {
  ends = null;

  /** @param table gives svg, button, the view, the width of a pixel in mm, and the unit */
  constructor(table) {
    this.table = table;
  }

  get isOn() {
    return this.ends !== null;
  }

  turn(on) {
    this.ends = on ? [] : null;
    this.table.area.classList.toggle("is-measuring", on);
    this.table.area.querySelector(".measure")?.setAttribute("aria-pressed", on);
    this.table.svg.querySelector(".measured")?.remove();
  }

  async click(event) {
    const straight = event.shiftKey;
    const caught = await this.#catch(this.table.at(event));
    if (!this.ends) return;
    if (this.ends.length !== 1) this.ends = [caught];
    else this.ends = [this.ends[0], straight ? straightened(this.ends[0], caught) : caught];
    this.#draw(this.ends[1] ?? caught);
  }

  move(event) {
    if (this.ends?.length !== 1) return;
    const to = this.table.at(event);
    this.#draw(event.shiftKey ? straightened(this.ends[0], to) : to);
  }

  async #catch(p) {
    try {
      const answer = await fetch(`${this.table.area.querySelector(".measure").dataset.near}?x=${p.x}&y=${p.y}&within=${9 * this.table.mmPerPixel()}`);
      return answer.ok ? await answer.json() : p;
    } catch {
      return p;
    }
  }

  #draw(to) {
    const [from] = this.ends, px = this.table.mmPerPixel();
    const group = svgElement("g", { class: "measured" });
    group.append(svgElement("path", { d: `M${from.x} ${from.y}L${to.x} ${to.y}`, "stroke-width": 1.6 * px }));
    for (const p of [from, to]) group.append(svgElement("circle", { cx: p.x, cy: p.y, r: 4 * px, "stroke-width": 1.6 * px }));
    if (from !== to) {
      const at = { x: (from.x + to.x) / 2 + 8 * px, y: (from.y + to.y) / 2 - 8 * px, "font-size": 15 * px, "stroke-width": 4 * px };
      group.append(svgElement("text", at, measured(from, to, this.table.unit())));
    }
    this.table.svg.querySelector(".measured")?.remove();
    this.table.svg.append(group);
  }
}
