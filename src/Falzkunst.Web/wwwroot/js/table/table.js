// The table: wheel to zoom, drag the felt to look elsewhere, choose by click and frame, move what is chosen.
import { readView, writeView, fitView, zoomView, moveView } from "./view.js";
import { Rulers } from "./rulers.js";
import { Measuring } from "./measuring.js";
import { Drag, Nudges } from "./moving.js";
import { selection } from "./selection.js";
import { applyChanges } from "./changes.js";
import { candidates, isWithin, readBox, readPanels } from "./snapping.js";
import { boxAround, Handles, Pull } from "./handles.js";
import { Lines } from "./lines.js";
import { Drawing } from "./drawing.js";
import { svgElement, thing } from "./svg.js";

// Views are kept by docket and by what of it is looked at: a change never makes one jump.
const kept = new Map();
const LeastDragPx = 3;

/** The pieces of the table that lie under a pointer, the topmost first. */
const under = ({ clientX, clientY }) => [...new Set(document.elementsFromPoint(clientX, clientY)
  .map(e => e.closest(".table-svg a.choose")?.closest(".piece")).filter(Boolean))];

let current = null;

/** The table on the page; null where there is none. */
export const onTable = () => current?.area.isConnected ? current : null;

class Table {
  press = null;
  space = false;
  swallow = false;

  constructor(area, svg) {
    [this.area, this.svg] = [area, svg];
    this.key = `${document.getElementById("docket").dataset.docket}/${area.dataset.view}`;
    this.home = readView(svg.dataset.home);
    this.rulers = new Rulers(area);
    this.measuring = new Measuring(this);
    this.nudges = new Nudges(this);
    this.lines = new Lines(this);
    this.drawing = new Drawing(this);
    this.handles = new Handles(this);
    svg.setAttribute("preserveAspectRatio", "none");
    const again = kept.get(this.key);
    if (again && overlap(again, this.home)) this.show(again);
    else this.fit();
    area.querySelector(".measure")?.removeAttribute("hidden");
    this.resizer = new ResizeObserver(() => this.resized());
    this.resizer.observe(area);
    this.canChoose = !svg.classList.contains("is-picture");
    this.canMove = this.canChoose && area.dataset.view === "together";
    if (this.canChoose) selection.read();
    this.drawHandles();
  }

  /** Handles stand around what is chosen, unless something is under way. */
  drawHandles() {
    this.handles.draw(this.canMove ? selection.movable : [], Boolean(this.press?.moved));
  }

  /** What can be caught: edges and middles of all that lies there and is not moved itself. */
  catches(moved, lines = true) {
    const others = [...this.svg.querySelectorAll(".piece")].filter(p => !moved.has(p) && !p.parentNode.classList.contains("is-hidden"));
    const named = others.map(p => ({ name: p.dataset.name, box: readBox(p.dataset.box) }));
    return { ...candidates([...named, ...others.flatMap(p => readPanels(p.dataset.panels))], lines ? this.lines.candidates() : undefined),
      boxes: named.map(n => n.box) };
  }

  close() {
    this.resizer.disconnect();
  }

  unit() {
    return document.querySelector("[name=unit][aria-pressed=true]")?.value ?? "mm";
  }

  size() {
    const box = this.area.getBoundingClientRect();
    return { width: Math.max(1, box.width), height: Math.max(1, box.height) };
  }

  mmPerPixel() {
    return this.view.w / this.size().width;
  }

  fit() {
    const { width, height } = this.size();
    this.show(fitView(this.home, width, height, { left: 34, top: this.area.querySelector(".work-bar") ? 58 : 18,
      bottom: this.area.querySelector(".draw-tools") ? 34 : 0 }));
  }

  resized() {
    // A table that was just swapped away shrinks to nothing; its view is kept as it was.
    if (!this.area.isConnected) return;
    const { width, height } = this.size();
    const scale = this.view.w / (this.lastWidth || width);
    this.show({ ...this.view, w: width * scale, h: height * scale });
  }

  show(view) {
    const { width, height } = this.size();
    this.lastWidth = width;
    // The scale is the same both ways, whatever the window became in between.
    this.view = { ...view, h: view.w * height / width };
    kept.set(this.key, this.view);
    this.svg.setAttribute("viewBox", writeView(this.view));
    this.rulers.draw(this.view, { width, height }, this.unit());
    this.lines.draw();
    this.drawHandles();
    document.dispatchEvent(new CustomEvent("looked"));
  }

  /** Fits the view where what is chosen lies out of it. */
  seek() {
    const { x, y, w, h } = this.view, seen = { left: x, top: y, right: x + w, bottom: y + h };
    if (selection.movable.some(id => !isWithin(readBox(thing(this.svg, id)?.dataset.box ?? "0 0 0 0"), seen))) this.fit();
  }

  at(event) {
    const box = this.svg.getBoundingClientRect();
    return { x: this.view.x + (event.clientX - box.left) / box.width * this.view.w, y: this.view.y + (event.clientY - box.top) / box.height * this.view.h };
  }

  centre(x, y) {
    this.show({ ...this.view, x: x - this.view.w / 2, y: y - this.view.h / 2 });
  }

  /** Takes over what an edit changed. */
  change(changes) {
    applyChanges(this.svg, changes);
    this.home = readView(this.svg.dataset.home);
    this.nudges.settle();
    selection.settle();
    this.drawHandles();
  }

  /** Moves what is chosen by a step; false where nothing is. */
  nudge(dx, dy) {
    const ids = selection.movable;
    if (!ids.length || !this.canMove || this.press?.drag) return false;
    this.nudges.by(ids, dx, dy);
    return true;
  }

  /** A number that is typed while something is dragged stands in its field, which is gone on in; what was dragged lies where it lay until it is sent. */
  type(key) {
    const { press } = this;
    const typed = press?.moved && /^[\d.,-]$/.test(key) ? press.drag?.typed() : null;
    if (!typed) return false;
    this.giveUp();
    const { form, fields, first } = typed;
    for (const [name, value] of Object.entries(fields)) form.elements[name].value = value;
    form.closest("details").open = true;
    const field = form.elements[first];
    field.value = key;
    field.focus();
    return true;
  }

  /** What is under way is given up: a drag or a frame, or else measuring; false where nothing is. */
  giveUp() {
    if (this.press?.moved && !this.press.pans) {
      this.press.drag?.cancel();
      this.press.frame?.remove();
      if (this.press.guide) this.lines.giveUp(this.press.guide);
      if (this.press.draws) this.drawing.giveUp();
      this.press = { over: true };
      this.#hold(false);
      this.drawHandles();
      return true;
    }
    if (this.drawing.isOn) {
      this.drawing.turn("");
      return true;
    }
    if (!this.measuring.isOn) return false;
    this.measuring.turn(false);
    return true;
  }

  /** The piece below the chosen one, where the same place is clicked once more; after the lowest the topmost. */
  #next(event) {
    const last = this.clicked;
    if (!last || event.detail > 1 || Math.hypot(event.clientX - last.clientX, event.clientY - last.clientY) > LeastDragPx) return undefined;
    const there = under(event).map(piece => piece.dataset.id);
    const now = selection.movable.length === 1 ? there.indexOf(selection.movable[0]) : -1;
    return now < 0 ? undefined : there[(now + 1) % there.length];
  }

  /** What a pointer is on: a handle reaches beyond what is seen of it, but not over a neighbour that lies there; with Shift not even itself. What all that is
   *  chosen lies on is no neighbour. */
  #meant(event) {
    const { target } = event;
    if (!target.closest(".handle") || (target.matches(".knob") && !event.shiftKey)) return target;
    const chosen = selection.movable, around = boxAround(this.svg, chosen);
    const neighbour = around && under(event).find(p => !chosen.includes(p.dataset.id) && !isWithin(around, readBox(p.dataset.box)));
    return neighbour?.querySelector(".choose") ?? target;
  }

  // What a press begins (to look elsewhere, to frame, to move what it is on) is settled when the pointer goes down, and begun when it moves.
  down(event) {
    this.swallow = false;
    if (event.button > 1 || event.target.closest(".view-pair, .work-bar, .measure, .grid-box, .draw-tools, .picture-tools")) return;
    const { clientX, clientY } = event;
    const meant = this.#meant(event);
    const on = meant.closest(".is-loose, .is-words, .is-print.chosen") ?? meant.closest(".piece");
    const plain = event.button === 0 && !this.space;
    if (plain && this.drawing.isOn) {
      this.press = { clientX, clientY, draws: true };
      return;
    }
    const guide = plain && this.canMove && !this.measuring.isOn ? this.lines.press(event) : null;
    if (guide) {
      this.press = { clientX, clientY, guide };
      return;
    }
    const handle = meant.closest(".handle")?.dataset.handle;
    if (handle && plain) {
      this.press = { clientX, clientY, handle };
      return;
    }
    if (this.measuring.isOn && plain) return;
    if (plain && event.shiftKey && this.canChoose) this.press = { clientX, clientY, frames: true };
    else if (plain && on && this.canMove) this.press = { clientX, clientY, id: on.dataset.id, isLine: on.matches(".line") };
    else this.press = { clientX, clientY, pans: true };
  }

  move(event) {
    this.measuring.move(event);
    const { press } = this;
    if (!press || press.over) return;
    if (!press.moved) {
      if (Math.hypot(event.clientX - press.clientX, event.clientY - press.clientY) <= LeastDragPx) return;
      this.#begin(event);
    }
    // Once a frame, however often the mouse reports.
    press.last = event;
    press.waits ??= requestAnimationFrame(() => {
      press.waits = undefined;
      if (this.press === press) this.#follow(press.last);
    });
  }

  up(event) {
    const { press } = this;
    if (press?.moved) this.#follow(event);
    this.press = null;
    this.swallow = Boolean(press?.moved || press?.over || press?.handle);
    this.#hold(false);
    // Drawn anew, a handle would not be what is clicked.
    if (press?.over) this.drawHandles();
    if (!press?.moved) return;
    if (press.pans) this.#settle(press.next);
    else if (press.draws) this.drawing.end();
    else if (press.guide) {
      this.lines.drop(press.guide, event);
      this.drawHandles();
    } else if (press.frames) this.#framed(press);
    else press.drag.drop();
  }

  cancel() {
    const view = this.press?.pans && this.press.moved ? this.press.view : null;
    if (view) this.#settle(view);
    else this.giveUp();
    this.press = null;
    this.#hold(false);
  }

  click(event) {
    if (this.swallow) {
      // It ended a drag; it chooses nothing.
      this.swallow = false;
      event.preventDefault();
      event.stopPropagation();
      return;
    }
    if (event.target.closest("button, .view-pair, .work-bar, .grid-box, .picture-tools") || this.space || this.drawing.isOn) return;
    if (this.measuring.isOn) {
      event.preventDefault();
      event.stopPropagation();
      this.measuring.click(event);
      return;
    }
    if (!this.canChoose) return;
    const link = this.#meant(event).closest(".table-svg a");
    if (!link) {
      if (!event.shiftKey) selection.choose();
      return;
    }
    event.preventDefault();
    const kind = link.matches(".line") ? "lines" : link.matches(".ring") ? "rings" : "pieces";
    let { id } = (kind === "pieces" ? link.closest(".piece") : link).dataset;
    if (kind === "pieces" && !event.shiftKey) id = this.#next(event) ?? id;
    this.clicked = event;
    if (event.shiftKey) selection.toggle(id, kind);
    else selection.choose({ [kind]: [id] });
  }

  /** Words are written anew where they are double-clicked. */
  async write(event) {
    // The second click may be on a handle of what the first one chose.
    if (!this.canChoose || this.measuring.isOn || event.target.closest("button, .view-pair, .work-bar, .picture-tools")) return;
    event.preventDefault();
    await selection.card;
    const group = document.getElementById("words");
    if (!group) return;
    group.open = true;
    group.querySelector("textarea").select();
  }

  wheel(event) {
    if (this.press?.moved) return;
    const step = event.deltaMode === 1 ? event.deltaY * 18 : event.deltaY;
    this.wheeled = zoomView(this.wheeled ?? this.view, Math.exp(-step * 0.0015), this.at(event), this.home);
    this.wheelFrame ??= requestAnimationFrame(() => {
      this.show(this.wheeled);
      this.wheeled = this.wheelFrame = undefined;
    });
  }

  #begin(event) {
    const { press } = this;
    press.moved = true;
    this.drawHandles();
    if (press.guide || press.draws) {
      this.area.setPointerCapture(event.pointerId);
      if (press.draws) this.drawing.begin(press);
      return;
    }
    if (press.handle) {
      const ids = selection.movable;
      press.pull = new Pull(this, ids, press.handle, this.catches(new Set(ids.map(id => thing(this.svg, id)))), this.at(press));
      press.drag = press.pull;
    } else if (press.pans) {
      press.view = press.next = this.view;
    } else if (press.frames) {
      press.from = this.at(press);
      press.frame = svgElement("rect", { class: "frame" });
      this.svg.append(press.frame);
    } else {
      if (!selection.movable.includes(press.id)) selection.choose({ [press.isLine ? "lines" : "pieces"]: [press.id] });
      press.drag = new Drag(this, selection.movable);
    }
    this.area.setPointerCapture(event.pointerId);
    this.#hold(!press.frames);
  }

  /** Shows the closed hand, or not. */
  #hold(on) {
    this.area.classList.toggle("is-held", on);
  }

  #follow(event) {
    const { press } = this;
    const dx = event.clientX - press.clientX, dy = event.clientY - press.clientY, px = this.mmPerPixel();
    if (press.draws) {
      this.drawing.to(event);
    } else if (press.guide) {
      this.lines.drag(press.guide, event);
    } else if (press.frames) {
      this.#drawFrame(event);
    } else if (press.pull) {
      press.pull.to(this.at(event), event);
    } else if (press.drag) {
      press.drag.to(dx * px, dy * px, event.altKey);
    } else {
      press.next = moveView(press.view, -dx * px, -dy * px);
      // The finished picture is only shifted, and drawn afresh when it is let go.
      this.svg.classList.add("is-moving");
      this.svg.style.transform = `translate(${dx}px, ${dy}px)`;
      this.rulers.draw(press.next, this.size(), this.unit());
    }
  }

  #settle(view) {
    this.svg.style.transform = "";
    this.svg.classList.remove("is-moving");
    this.show(view);
  }

  #drawFrame(event) {
    const { from, frame } = this.press, to = this.at(event);
    const box = this.press.box = { left: Math.min(from.x, to.x), top: Math.min(from.y, to.y), right: Math.max(from.x, to.x), bottom: Math.max(from.y, to.y) };
    for (const [key, value] of [["x", box.left], ["y", box.top], ["width", box.right - box.left], ["height", box.bottom - box.top]]) frame.setAttribute(key,
      value);
  }

  #framed(press) {
    press.frame.remove();
    const within = (what, box) => [...this.svg.querySelectorAll(what)].filter(e => isWithin(box(e), press.box)).map(e => e.dataset.id);
    const inside = within(".piece", this.area.dataset.view === "over" ? shownAt.bind(this) : boxOf);
    if (inside.length) return selection.add(inside);
    // Where no piece is framed, its lines may be.
    const lines = within(".line", shownAt.bind(this));
    if (lines.length) selection.choose({ lines });
  }
}

/** Where a piece is seen: with the plies apart, its ply is elsewhere. */
function boxOf(piece) {
  const box = readBox(piece.dataset.box), by = piece.parentNode.transform.baseVal.consolidate()?.matrix;
  return by ? { left: box.left + by.e, right: box.right + by.e, top: box.top + by.f, bottom: box.bottom + by.f } : box;
}

/** Where on the table something is seen, in mm. */
function shownAt(element) {
  const box = element.getBoundingClientRect();
  const from = this.at({ clientX: box.left, clientY: box.top }), to = this.at({ clientX: box.right, clientY: box.bottom });
  return { left: from.x, top: from.y, right: to.x, bottom: to.y };
}

const overlap = (a, b) => a.x < b.x + b.w && b.x < a.x + a.w && a.y < b.y + b.h && b.y < a.y + a.h;

export default () => {
  let table = null;
  const tell = what => event => table?.[what](event);
  return {
    init() {
      const svg = this.$el.querySelector(".table-svg");
      if (!svg) return;
      current = table = new Table(this.$el, svg);
      // What is beside the table can ask for it now.
      document.dispatchEvent(new CustomEvent("chosen"));
    },
    destroy() {
      table?.close();
    },
    measuring: {
      ["@click.stop"]() {
        table.measuring.turn(!table.measuring.isOn);
      },
    },
    area: {
      ["@click.capture"]: tell("click"),
      ["@dblclick"]: tell("write"),
      ["@dragstart.prevent"]() {},
      ["@wheel.prevent"]: tell("wheel"),
      ["@pointerdown"]: tell("down"),
      ["@pointermove"]: tell("move"),
      ["@pointerup"]: tell("up"),
      ["@pointercancel"]: tell("cancel"),
      ["@click.window"](event) {
        const how = event.target.closest?.("[data-draw]")?.dataset.draw;
        if (how) table?.drawing.turn(how);
      },
      ["@chosen.document"]: tell("drawHandles"),
      ["@keydown.window"](event) {
        if (event.code !== "Space" || !table || event.target.closest("input, select, textarea, button, a, summary")) return;
        table.space = true;
        event.preventDefault();
      },
      ["@keyup.window"](event) {
        if (event.code === "Space" && table) table.space = false;
      },
    },
  };
};
