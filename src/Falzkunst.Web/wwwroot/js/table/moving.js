// Moving what is chosen, by hand and by arrow keys. What is seen at once is confirmed by the server, which alone moves anything for good.
import { around, candidates, readBox, readPanels, snapped } from "./snapping.js";
import { lengthText } from "./view.js";
import { svgElement, thing } from "./svg.js";

const CatchPx = 7, PauseMs = 300, GestureMs = 1500;

/** Asks the server to move, and waits for its answer, which puts the pieces where they lie then. */
function askToMove(ids, dx, dy, gesture) {
  const address = new URL(location.href);
  address.searchParams.set("handler", "Move");
  const token = document.querySelector("#tools [name=__RequestVerificationToken]").value;
  const values = { ids: ids.join(","), right: dx.toFixed(4), down: dy.toFixed(4), gesture, basedOn: "", __RequestVerificationToken: token };
  return new Promise(done => {
    const over = ({ detail }) => {
      const sent = detail.requestConfig?.parameters;
      if (sent?.gesture !== gesture || sent.right !== values.right || sent.down !== values.down) return;
      document.removeEventListener("htmx:afterRequest", over);
      done();
    };
    document.addEventListener("htmx:afterRequest", over);
    window.htmx.ajax("POST", address.pathname + address.search, { source: "#docket", values });
  });
}

const newGesture = () => crypto.randomUUID().replaceAll("-", "");

/** A drag under way. The chosen pieces are copied into a picture of their own that is only shifted,
  so that a frame costs the same whatever lies on the table. */
export class Drag {
  constructor(table, ids) {
    this.table = table;
    this.ids = ids;
    this.pieces = ids.map(id => thing(table.svg, id)).filter(Boolean);
    this.box = around(this.pieces.map(p => readBox(p.dataset.box)));
    const moved = new Set(this.pieces);
    const others = [...table.svg.querySelectorAll(".piece")].filter(p => !moved.has(p));
    this.found = candidates(others.flatMap(p => [{ name: p.dataset.name, box: readBox(p.dataset.box) }, ...readPanels(p.dataset.panels)]));
    this.picture = svgElement("svg",
      { class: `drag-svg ${table.svg.classList.contains("is-small") ? "is-small" : ""}`, viewBox: table.svg.getAttribute("viewBox"),
      preserveAspectRatio: "none" });
    this.picture.append(...this.pieces.map(inPlace));
    this.lines = svgElement("svg", { class: "snap-svg", viewBox: table.svg.getAttribute("viewBox"), preserveAspectRatio: "none" });
    this.says = document.createElement("p");
    this.says.className = "drag-says";
    table.area.append(this.picture, this.lines, this.says);
    for (const p of this.pieces) p.classList.add("is-away");
    this.dx = this.dy = 0;
    this.shown = "";
  }

  /** @param {boolean} free whether nothing is to be caught */
  to(dx, dy, free) {
    const px = this.table.mmPerPixel();
    const next = free ? { dx, dy, x: null, y: null } : snapped(this.box, dx, dy, this.found, CatchPx * px);
    [this.dx, this.dy] = [next.dx, next.dy];
    this.picture.style.transform = `translate(${this.dx / px}px, ${this.dy / px}px)`;
    const unit = this.table.unit(), caught = [next.x?.text, next.y?.text].filter(Boolean);
    const way = `${lengthText(Math.abs(this.dx), unit)} to the ${this.dx < -0.005 ? "left" : "right"}, ${lengthText(Math.abs(this.dy), unit)} `
      + `${this.dy < -0.005 ? "up" : "down"}`;
    this.says.textContent = caught.length ? `${way} · ${[...new Set(caught)].join(", ")}` : way;
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

  /** Lets go: the server is asked, and what it answers is shown. */
  async drop() {
    this.lines.remove();
    this.says.remove();
    if (Math.hypot(this.dx, this.dy) > 1e-6) await askToMove(this.ids, this.dx, this.dy, newGesture());
    this.cancel();
  }

  /** Puts everything back where it was. */
  cancel() {
    for (const part of [this.picture, this.lines, this.says]) part.remove();
    for (const p of this.pieces) p.classList.remove("is-away");
    const form = document.querySelector(".move-by");
    if (form) form.reset();
  }
}

/** A way on the table as a thing's own coordinates see it: what a piece carries is turned with that. */
function asItsOwn(element, { x, y }) {
  const m = element?.matches(".line") && element.closest(".piece")?.transform.baseVal.consolidate()?.matrix.inverse();
  return m ? { x: m.a * x + m.c * y, y: m.b * x + m.d * y } : { x, y };
}

/** A picture of a thing where it is seen: what a piece carries lies as that does. */
function inPlace(thing) {
  const picture = thing.cloneNode(true), by = thing.matches(".line") && thing.closest(".piece");
  if (!by) return picture;
  const g = svgElement("g", by.hasAttribute("transform") ? { transform: by.getAttribute("transform") } : {});
  g.append(picture);
  return g;
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
