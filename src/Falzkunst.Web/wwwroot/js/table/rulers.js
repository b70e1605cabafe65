// The rulers along two edges of the table.
import { rulerMarks } from "./view.js";
import { svgElement } from "./svg.js";

export class Rulers {
  constructor(area) {
    this.sides = ["top", "left"].map(side => {
      const ruler = svgElement("svg", { class: `ruler ruler-${side}`, "aria-hidden": "true" });
      area.append(ruler);
      return ruler;
    });
  }

  draw({ x, y, w, h }, { width, height }, unit) {
    const marks = [rulerMarks(x, x + w, width, unit), rulerMarks(y, y + h, height, unit)];
    this.sides.forEach((ruler, i) => {
      ruler.replaceChildren(...marks[i].filter(m => m.at > 24).flatMap(m => [
        svgElement("path", { d: i === 0 ? `M${m.at} 0V7` : `M0 ${m.at}H7` }),
        svgElement("text", { x: i === 0 ? m.at + 3 : 9, y: i === 0 ? 13 : m.at + 4 }, m.label),
      ]));
    });
  }
}
