// Drawing on the table by hand: a straight line, a free curve, an arc, or a line that what is chosen is cut apart along. The server makes a path of it.
import { selection } from "./selection.js";
import { post } from "./asking.js";
import { straightened } from "./view.js";
import { svgElement } from "./svg.js";

const LeastPx = 3, MostPoints = 4000;

export class Drawing {
  how = "";

  constructor(table) {
    this.table = table;
  }

  get isOn() {
    return this.how !== "";
  }

  turn(how) {
    this.how = this.how === how ? "" : how;
    this.table.area.classList.toggle("is-drawing", this.isOn);
    for (const b of document.querySelectorAll("[data-draw]")) b.setAttribute("aria-pressed", String(b.dataset.draw === this.how));
  }

  begin(event) {
    this.points = [this.table.at(event)];
    this.path = svgElement("path", { class: `drawn ${this.how === "cut" ? "is-cut" : ""}` });
    this.table.svg.append(this.path);
  }

  to(event) {
    const [from] = this.points, p = this.table.at(event), last = this.points.at(-1);
    if (this.how !== "free" && this.how !== "arc") this.points = [from, event.shiftKey ? straightened(from, p) : p];
    else if (Math.hypot(p.x - last.x, p.y - last.y) > LeastPx * this.table.mmPerPixel() && this.points.length < MostPoints) this.points.push(p);
    this.path.setAttribute("d", this.points.map((q, i) => `${i ? "L" : "M"}${q.x} ${q.y}`).join(""));
  }

  async end() {
    const points = this.points.map(p => `${p.x.toFixed(4)} ${p.y.toFixed(4)}`).join(","), { how } = this;
    await post("Draw", { how, points, ids: selection.movable.join(",") });
    this.giveUp();
    this.turn("");
  }

  giveUp() {
    this.path?.remove();
  }
}
