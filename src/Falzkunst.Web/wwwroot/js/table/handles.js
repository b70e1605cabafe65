// Handles around what is chosen: eight to size by, one to turn by. While one is dragged a picture is stretched or turned; the server does it.
import { around, nearest, readBox } from "./snapping.js";
import { Picture } from "./picture.js";
import { post } from "./asking.js";
import { svgElement, thing } from "./svg.js";
import { lengthText } from "./view.js";

const Reach = 11, Out = 30, LeastPx = 46, CatchPx = 7, LeastMm = 0.1;
// Where on the box each lies, from 0 to 2 across and down; the middle is none.
const places = [[0, 0], [1, 0], [2, 0], [2, 1], [2, 2], [1, 2], [0, 2], [0, 1]];
const names = ["upper left", "upper", "upper right", "right", "lower right", "lower", "lower left", "left"];

const at = (box, x, y) => ({ x: box.left + (box.right - box.left) * x / 2, y: box.top + (box.bottom - box.top) * y / 2 });

/** The box around things of the table that lie as their data says. */
export const boxAround = (svg, ids) => {
  const boxes = ids.map(id => thing(svg, id)?.dataset.box).filter(Boolean);
  return boxes.length ? around(boxes.map(readBox)) : null;
};

/** Where the edge of a box comes to lie that is dragged to a place: the new lengths, and what was caught, another thing as wide or as high among it. Pure. */
export function sized(box, [hx, hy], to, { free, loose, centred, found, within }) {
  const width = box.right - box.left, height = box.bottom - box.top, caught = [];
  const pull = (h, from, until, want, list, sizes, as) => {
    if (h === 1) return null;
    const hit = free ? null : nearest(list, want), end = hit && Math.abs(hit.at - want) <= within ? hit.at : want;
    // From the middle both sides go out as far.
    const middle = (from + until) / 2, size = Math.max(LeastMm, centred ? 2 * (h === 2 ? end - middle : middle - end) : h === 2 ? end - from : until - end);
    const like = free || end !== want ? undefined : sizes.find(s => Math.abs(s - size) <= within);
    if (end !== want) caught.push(hit);
    else if (like !== undefined) caught.push({ at: want, text: `as ${as} as another` });
    return like ?? size;
  };
  const { boxes = [] } = found;
  let w = pull(hx, box.left, box.right, to.x, found.x, boxes.map(b => b.right - b.left), "wide");
  let h = pull(hy, box.top, box.bottom, to.y, found.y, boxes.map(b => b.bottom - b.top), "high");
  if (w !== null && h !== null && !loose) {
    // In one ratio: as the hand went farther, measured by the box itself.
    const by = Math.abs(w / width - 1) > Math.abs(h / height - 1) ? w / width : h / height;
    [w, h] = [width * by, height * by];
  }
  return { width: w ?? width, height: h ?? height, caught };
}

/** By how much a hand that went from one place to another about a middle has turned, in degrees, clockwise; in steps, where there are any. Pure. */
export function turned(middle, from, to, step) {
  const angle = p => Math.atan2(p.y - middle.y, p.x - middle.x) * 180 / Math.PI;
  let by = angle(to) - angle(from);
  by -= 360 * Math.round(by / 360);
  return step ? Math.round(by / step) * step : by;
}

export class Handles {
  constructor(table) {
    this.table = table;
    this.svg = svgElement("svg", { class: "handles-svg", preserveAspectRatio: "none" });
    table.area.append(this.svg);
  }

  /** Draws them where what is chosen lies; none where nothing is, or something is under way. */
  draw(ids, isOff) {
    const box = isOff || !ids.length ? null : boxAround(this.table.svg, ids);
    this.svg.replaceChildren();
    if (!box) return;
    const px = this.table.mmPerPixel(), { x, y, w, h } = this.table.view;
    this.svg.setAttribute("viewBox", `${x} ${y} ${w} ${h}`);
    const wide = (box.right - box.left) / px, high = (box.bottom - box.top) / px;
    const top = at(box, 1, 0), knob = { x: top.x, y: top.y - Out * px };
    this.svg.append(svgElement("rect", { class: "around", x: box.left, y: box.top, width: box.right - box.left, height: box.bottom - box.top }),
      svgElement("path", { class: "around", d: `M${top.x} ${top.y}L${knob.x} ${knob.y}` }));
    places.forEach((place, k) => {
      // Along a short side only its ends have room.
      if ((place[0] === 1 && wide < LeastPx) || (place[1] === 1 && high < LeastPx)) return;
      this.#handle(at(box, ...place), k, `Size from the ${names[k]} ${k % 2 ? "edge" : "corner"}`, px);
    });
    this.#handle(knob, "turn", "Turn", px);
  }

  #handle(p, which, title, px) {
    const g = svgElement("g", { class: which === "turn" ? "handle is-turn" : "handle", "data-handle": which });
    g.append(svgElement("title", {}, title), svgElement("circle", { class: "reach", cx: p.x, cy: p.y, r: Reach * px * 1.5 }),
      which === "turn" ? svgElement("circle", { class: "knob", cx: p.x, cy: p.y, r: 6 * px })
        : svgElement("rect", { class: "knob", x: p.x - 5 * px, y: p.y - 5 * px, width: 10 * px, height: 10 * px }));
    this.svg.append(g);
  }
}

/** One handle in a hand. */
export class Pull {
  constructor(table, ids, which, found, from) {
    [this.table, this.ids, this.found, this.from] = [table, ids, found, from];
    this.box = boxAround(table.svg, ids);
    this.place = which === "turn" ? null : places[Number(which)];
    this.picture = new Picture(table, ids);
    this.handles = table.handles;
    this.handles.draw([], true);
  }

  /** @param {{ x: number, y: number }} hand in mm */
  to(hand, event) {
    const px = this.table.mmPerPixel(), unit = this.table.unit();
    if (!this.place) {
      const middle = at(this.box, 1, 1);
      this.by = turned(middle, this.from, hand, event.altKey ? 0 : event.shiftKey ? 15 : 1);
      this.picture.map(`rotate(${this.by}deg)`, middle);
      this.picture.say(`${+this.by.toFixed(1)}°`);
      this.#tell("#turn [name=degrees]", String(+this.by.toFixed(1)));
      return;
    }
    const { width, height, caught } = sized(this.box, this.place, hand,
      { free: event.altKey, loose: event.shiftKey, centred: event.ctrlKey, found: this.found, within: CatchPx * px });
    // What lies opposite of the handle stays, or the middle.
    const [x, y] = event.ctrlKey ? [1, 1] : [2 - this.place[0], 2 - this.place[1]], stays = at(this.box, x, y);
    this.to_ = { width, height, from: `${x} ${y}` };
    this.picture.map(`scale(${width / (this.box.right - this.box.left)}, ${height / (this.box.bottom - this.box.top)})`, stays);
    const words = `${lengthText(width, unit)} × ${lengthText(height, unit)}`;
    this.picture.say([words, ...new Set(caught.map(c => c.text))].join(" · "));
    this.#tell("#size [name=width]", lengthText(width, unit));
    this.#tell("#size [name=height]", lengthText(height, unit));
  }

  /** The form that does the same by numbers, and the field that a person types over first. */
  typed() {
    const form = document.querySelector(this.place ? "#size .size-form" : "#turn form");
    if (!form || !this.place) return form && { form, fields: {}, first: "degrees" };
    // One length is typed; the other keeps the ratio, or stays as it was.
    return { form, fields: { from: this.to_?.from ?? "1 1" }, first: this.place[0] === 1 ? "height" : "width" };
  }

  #tell(field, text) {
    const input = document.querySelector(field);
    if (input) input.value = text;
  }

  async drop() {
    this.picture.quiet();
    const ids = this.ids.join(",");
    if (!this.place && this.by) await post("Turn", { ids, degrees: this.by.toFixed(4) });
    if (this.place && this.to_) {
      const { width, height, from } = this.to_;
      await post("Size", { ids, width: `${width.toFixed(4)} mm`, height: `${height.toFixed(4)} mm`, keep: "false", from });
    }
    this.cancel();
  }

  cancel() {
    this.picture.remove();
    this.table.drawHandles();
    for (const form of document.querySelectorAll("#size form, #turn form")) form.reset();
  }
}
