// The table: wheel to zoom, drag the felt (or Space and drag) to move, rulers along two edges.
import { measured, straightened, readView, writeView, fitView, zoomView, moveView, rulerMarks } from "./view.js";

// Views outlive the swapping of the page's parts, so that a change does not jump.
const kept = new Map();
const svgNamespace = "http://www.w3.org/2000/svg";

export default () => ({
  svg: null,
  home: null,
  view: null,
  key: "",
  drag: null,
  space: false,
  ends: null,

  init() {
    this.svg = this.$el.querySelector(".table-svg");
    if (!this.svg) return;
    const docket = document.getElementById("docket").dataset;
    this.key = `${docket.docket}/${this.svg.dataset.home}`;
    this.home = readView(this.svg.dataset.home);
    this.rulers = ["top", "left"].map(side => {
      const ruler = document.createElementNS(svgNamespace, "svg");
      ruler.setAttribute("class", `ruler ruler-${side}`);
      ruler.setAttribute("aria-hidden", "true");
      this.$el.append(ruler);
      return ruler;
    });
    this.svg.setAttribute("preserveAspectRatio", "none");
    const again = kept.get(this.key);
    if (again) this.show(again);
    else this.fit();
    this.$el.querySelector(".measure")?.removeAttribute("hidden");
    this.resizer = new ResizeObserver(() => this.resized());
    this.resizer.observe(this.$el);
  },

  destroy() {
    this.resizer?.disconnect();
  },

  size() {
    const box = this.$el.getBoundingClientRect();
    return { width: Math.max(1, box.width), height: Math.max(1, box.height) };
  },

  fit() {
    const { width, height } = this.size();
    this.show(fitView(this.home, width, height, { left: 34, top: 18 }));
  },

  resized() {
    // A table that was just swapped away shrinks to nothing; its view is kept as it was.
    if (!this.$el.isConnected) return;
    const { width, height } = this.size();
    const scale = this.view.w / (this.lastWidth || width);
    this.show({ ...this.view, w: width * scale, h: height * scale });
  },

  show(view) {
    const { width, height } = this.size();
    this.lastWidth = width;
    // The scale is the same both ways, whatever the window became in between.
    this.view = { ...view, h: view.w * height / width };
    kept.set(this.key, this.view);
    this.svg.setAttribute("viewBox", writeView(this.view));
    this.drawRulers(width, height);
  },

  drawRulers(width, height, view = this.view) {
    const unit = document.querySelector("[name=unit][aria-pressed=true]")?.value ?? "mm";
    const { x, y, w, h } = view;
    const parts = [rulerMarks(x, x + w, width, unit), rulerMarks(y, y + h, height, unit)];
    this.rulers.forEach((ruler, i) => {
      ruler.replaceChildren(...parts[i].filter(m => m.at > 24).flatMap(m => {
        const tick = document.createElementNS(svgNamespace, "path");
        tick.setAttribute("d", i === 0 ? `M${m.at} 0V7` : `M0 ${m.at}H7`);
        const label = document.createElementNS(svgNamespace, "text");
        label.setAttribute("x", i === 0 ? m.at + 3 : 9);
        label.setAttribute("y", i === 0 ? 13 : m.at + 4);
        label.textContent = m.label;
        return [tick, label];
      }));
    });
  },

  at(event) {
    const box = this.svg.getBoundingClientRect();
    return { x: this.view.x + (event.clientX - box.left) / box.width * this.view.w, y: this.view.y + (event.clientY - box.top) / box.height * this.view.h };
  },

  centre(x, y) {
    this.show({ ...this.view, x: x - this.view.w / 2, y: y - this.view.h / 2 });
  },

  // Measuring: the server says what a point caught, a corner first; the distance between two points is all that is reckoned here.
  measure(on) {
    this.ends = on ? [] : null;
    this.$root.classList.toggle("is-measuring", on);
    this.$root.querySelector(".measure")?.setAttribute("aria-pressed", on);
    this.svg.querySelector(".measured")?.remove();
  },

  async catchAt(event) {
    const p = this.at(event);
    const within = 9 * this.view.w / this.size().width;
    try {
      const answer = await fetch(`${this.$root.querySelector(".measure").dataset.near}?x=${p.x}&y=${p.y}&within=${within}`);
      return answer.ok ? await answer.json() : p;
    } catch {
      return p;
    }
  },

  async measureAt(event) {
    const straight = event.shiftKey;
    const caught = await this.catchAt(event);
    if (!this.ends) return;
    if (this.ends.length !== 1) this.ends = [caught];
    else this.ends = [this.ends[0], straight ? straightened(this.ends[0], caught) : caught];
    this.drawMeasure(this.ends[1] ?? caught);
  },

  drawMeasure(to) {
    const from = this.ends[0];
    const unit = document.querySelector("[name=unit][aria-pressed=true]")?.value ?? "mm";
    const px = this.view.w / this.size().width;
    const group = document.createElementNS(svgNamespace, "g");
    group.setAttribute("class", "measured");
    const add = (name, attributes, text) => {
      const e = document.createElementNS(svgNamespace, name);
      for (const [k, v] of Object.entries(attributes)) e.setAttribute(k, v);
      if (text) e.textContent = text;
      group.append(e);
    };
    add("path", { d: `M${from.x} ${from.y}L${to.x} ${to.y}`, "stroke-width": 1.6 * px });
    for (const p of [from, to]) add("circle", { cx: p.x, cy: p.y, r: 4 * px, "stroke-width": 1.6 * px });
    if (from !== to) add("text", { x: (from.x + to.x) / 2 + 8 * px, y: (from.y + to.y) / 2 - 8 * px, "font-size": 15 * px, "stroke-width": 4 * px }, measured(from, to, unit));
    this.svg.querySelector(".measured")?.remove();
    this.svg.append(group);
  },

  measuring: {
    ["@click.stop"]() {
      this.measure(!this.ends);
    },
  },

  area: {
    ["@click.capture"](event) {
      if (!this.ends || event.target.closest("button, .view-pair")) return;
      event.preventDefault();
      event.stopPropagation();
      this.measureAt(event);
    },
    ["@keydown.escape.window.capture"](event) {
      if (!this.ends) return;
      event.stopPropagation();
      this.measure(false);
    },
    ["@wheel.prevent"](event) {
      if (!this.svg) return;
      const step = event.deltaMode === 1 ? event.deltaY * 18 : event.deltaY;
      this.wheel = zoomView(this.wheel ?? this.view, Math.exp(-step * 0.0015), this.at(event), this.home);
      if (this.wheelFrame) return;
      this.wheelFrame = requestAnimationFrame(() => {
        this.show(this.wheel);
        this.wheel = null;
        this.wheelFrame = 0;
      });
    },
    ["@pointerdown"](event) {
      if (!this.svg || event.button > 1) return;
      const onPaper = event.target.closest("a") && !this.space && event.button === 0;
      if (onPaper || event.target.closest(".view-pair, .measure")) return;
      if (this.ends && !this.space && event.button === 0) return;
      this.drag = { x: event.clientX, y: event.clientY, view: this.view, moved: false };
      this.$el.setPointerCapture(event.pointerId);
    },
    ["@pointermove"](event) {
      if (this.ends?.length === 1) {
        const to = this.at(event);
        this.drawMeasure(event.shiftKey ? straightened(this.ends[0], to) : to);
      }
      if (!this.drag) return;
      const { width, height } = this.size();
      const dx = event.clientX - this.drag.x, dy = event.clientY - this.drag.y;
      this.drag.moved ||= Math.abs(dx) + Math.abs(dy) > 3;
      this.drag.next = moveView(this.drag.view, -dx * this.drag.view.w / width, -dy * this.drag.view.h / height);
      // The finished picture is only shifted, once a frame, however often the mouse reports; it is drawn afresh when it is let go.
      if (this.drag.frame || !this.drag.moved) return;
      this.drag.frame = requestAnimationFrame(() => {
        if (!this.drag) return;
        this.drag.frame = 0;
        this.svg.classList.add("is-moving");
        const { view, next } = this.drag;
        this.svg.style.transform = `translate(${(view.x - next.x) / view.w * width}px, ${(view.y - next.y) / view.h * height}px)`;
        this.drawRulers(width, height, next);
      });
    },
    ["@pointerup"](event) {
      if (!this.drag) return;
      const { moved, next } = this.drag;
      this.drag = null;
      this.svg.style.transform = "";
      this.svg.classList.remove("is-moving");
      if (moved && next) this.show(next);
      else if (!event.target.closest("a")) document.querySelector("[data-key=escape]")?.click();
    },
    ["@keydown.window"](event) {
      if (event.code === "Space" && !event.target.closest("input, select, textarea, button, a, summary")) {
        this.space = true;
        event.preventDefault();
      }
    },
    ["@keyup.window"](event) {
      if (event.code === "Space") this.space = false;
    },
    ["@falz-fit.window"]() {
      if (this.svg) this.fit();
    },
    ["@falz-show.window"](event) {
      if (this.svg) this.centre(event.detail.x, event.detail.y);
    },
  },
});
