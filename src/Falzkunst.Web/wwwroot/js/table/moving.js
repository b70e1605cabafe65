// Moving what is chosen, by hand and by arrow keys. What is seen at once is confirmed by the server, which alone moves anything for good.
import { around, readBox, snapped } from "./snapping.js";
import { Picture } from "./picture.js";
import { post } from "./asking.js";
import { lengthText } from "./view.js";
import { svgElement, thing } from "./svg.js";

const CatchPx = 7, PauseMs = 300, GestureMs = 1500;

/** Asks the server to move. */
const askToMove = (ids, dx, dy, gesture) => post("Move", { ids: ids.join(","), right: dx.toFixed(4), down: dy.toFixed(4), gesture });

const newGesture = () => crypto.randomUUID().replaceAll("-", "");

/** A drag under way. */
export class Drag {
  constructor(table, ids) {
    this.table = table;
    this.ids = ids;
    this.picture = new Picture(table, ids);
    this.box = around(this.picture.things.map(p => readBox(p.dataset.box)));
    this.found = table.catches(new Set(this.picture.things));
    this.lines = svgElement("svg", { class: "snap-svg", viewBox: table.svg.getAttribute("viewBox"), preserveAspectRatio: "none" });
    table.area.append(this.lines);
    this.dx = this.dy = 0;
    this.shown = "";
  }

  /** @param {boolean} free whether nothing is to be caught */
  to(dx, dy, free) {
    const px = this.table.mmPerPixel();
    const next = free ? { dx, dy, x: null, y: null } : snapped(this.box, dx, dy, this.found, CatchPx * px);
    [this.dx, this.dy] = [next.dx, next.dy];
    this.picture.map(`translate(${this.dx / px}px, ${this.dy / px}px)`);
    const unit = this.table.unit(), caught = [next.x?.text, next.y?.text].filter(Boolean);
    const way = `${lengthText(Math.abs(this.dx), unit)} to the ${this.dx < -0.005 ? "left" : "right"}, ${lengthText(Math.abs(this.dy), unit)} `
      + `${this.dy < -0.005 ? "up" : "down"}`;
    this.picture.say(caught.length ? `${way} · ${[...new Set(caught)].join(", ")}` : way);
    const form = document.querySelector(".move-by");
    if (form) [form.elements.right.value, form.elements.down.value] = [lengthText(this.dx, unit), lengthText(this.dy, unit)];
    this.#draw(next, px);
  }

  #draw({ x, y }, px) {
    const shown = `${x?.at} ${y?.at}`;
    if (shown === this.shown) return;
    this.shown = shown;
    const view = this.table.view, path = (x ? `M${x.at} ${view.y}v${view.h}` : "") + (y ? `M${view.x} ${y.at}h${view.w}` : "");
    this.lines.replaceChildren(...path ? [svgElement("path", { d: path, "stroke-width": 1.4 * px })] : []);
  }

  /** The form that does the same by numbers, as they are now, and the field that a person types over first. */
  typed() {
    const form = document.querySelector(".move-by"), unit = this.table.unit();
    return form && { form, fields: { right: lengthText(this.dx, unit), down: lengthText(this.dy, unit) },
      first: Math.abs(this.dy) > Math.abs(this.dx) ? "down" : "right" };
  }

  /** Lets go: the server is asked, and what it answers is shown. */
  async drop() {
    this.lines.remove();
    this.picture.quiet();
    if (Math.hypot(this.dx, this.dy) > 1e-6) await askToMove(this.ids, this.dx, this.dy, newGesture());
    this.cancel();
  }

  /** Puts everything back where it was. */
  cancel() {
    this.lines.remove();
    this.picture.remove();
    this.table.drawHandles();
    const form = document.querySelector(".move-by");
    if (form) form.reset();
  }
}

/** A way on the table as a thing's own coordinates see it: what a piece carries is turned with that. */
function asItsOwn(element, { x, y }) {
  const m = element?.matches(".line") && element.closest(".piece")?.transform.baseVal.consolidate()?.matrix.inverse();
  return m ? { x: m.a * x + m.c * y, y: m.b * x + m.d * y } : { x, y };
}

/** Arrow keys: each shows at once, a row of them is one change, and none is lost however long the server takes. */
export class Nudges {
  // In order, the newest last; the first may be with the server.
  moves = [];
  asked = false;

  constructor(table) {
    this.table = table;
  }

  by(ids, dx, dy) {
    const last = this.moves.at(-1), name = ids.join();
    if (last?.name === name && !(this.asked && this.moves.length === 1)) {
      last.dx += dx;
      last.dy += dy;
    } else {
      this.moves.push({ name, ids, dx, dy, gesture: this.#gestureOf(name) });
      // What waited for more of its kind waits for nothing any more.
      if (this.moves.length > 1) this.send();
    }
    this.#show(this.moves);
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.send(), PauseMs);
  }

  async send() {
    clearTimeout(this.timer);
    if (this.asked || !this.moves.length) return;
    this.asked = true;
    const { name, ids, dx, dy, gesture } = this.moves[0];
    if (Math.hypot(dx, dy) > 1e-6) await askToMove(ids, dx, dy, gesture);
    else this.#lay(ids);
    this.moves.shift();
    this.asked = false;
    this.last = { name, gesture, at: performance.now() };
    this.send();
  }

  /** What the server just showed holds what was sent. */
  settle() {
    this.#show(this.asked ? this.moves.slice(1) : this.moves);
  }

  /** The server could not be asked: everything lies where it lay. */
  forget() {
    clearTimeout(this.timer);
    for (const { ids } of this.moves) this.#lay(ids);
    this.moves.length = this.asked ? 1 : 0;
  }

  /** Steps soon after those that were sent, of the same things, are of the same gesture. */
  #gestureOf(name) {
    const before = this.moves.at(-1) ?? (this.last && performance.now() - this.last.at < GestureMs ? this.last : null);
    return before?.name === name ? before.gesture : newGesture();
  }

  /** Shifts each thing by all that is not confirmed yet. */
  #show(moves) {
    const by = new Map();
    for (const { ids, dx, dy } of moves) for (const id of ids) by.set(id, { x: (by.get(id)?.x ?? 0) + dx, y: (by.get(id)?.y ?? 0) + dy });
    for (const [id, way] of by) {
      const element = thing(this.table.svg, id), { x, y } = asItsOwn(element, way);
      element?.style.setProperty("translate", `${x}px ${y}px`);
    }
  }

  #lay(ids) {
    for (const id of ids) thing(this.table.svg, id)?.style.removeProperty("translate");
  }
}
