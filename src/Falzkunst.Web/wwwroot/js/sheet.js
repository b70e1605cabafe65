// Pieces on a sheet, by hand. The picture follows the hand at once; where the piece comes to lie the server says, which knows shapes and gaps.
import { arrowStep } from "./arrows.js";
import { post } from "./table/asking.js";
import { svgElement } from "./table/svg.js";
import { lengthText } from "./table/view.js";

const StartPx = 4, PauseMs = 350;

const figure = () => document.querySelector("[data-by-hand]");
const unit = () => document.querySelector("#tools [name=unit][aria-pressed=true]")?.value ?? "mm";
const pieceOf = (within, name) => within.querySelector(`[data-laid="${CSS.escape(name)}"]`);

function choose(address) {
  history.replaceState(history.state, "", address);
  return window.htmx.ajax("GET", address, { source: "#docket", target: "#docket", select: "#docket", swap: "outerHTML show:none" });
}

/** Changes something about a piece for good; it is chosen then. */
function change(name, handler, values) {
  const address = new URL(location.href);
  address.searchParams.set("laid", name);
  history.replaceState(history.state, "", address);
  return post(handler, { layout: figure().dataset.layout, ...values });
}

const move = (name, right, down) => change(name, "MovePiece", { right: `${right.toFixed(4)} mm`, down: `${down.toFixed(4)} mm`, turn: 0 });

const besideAt = event => document.elementFromPoint(event.clientX, event.clientY)?.closest(".beside");

/** A piece on its way. One question at a time; the newest place is asked for next. */
class Way {
  right = 0;
  down = 0;
  asking = false;

  constructor(link) {
    this.link = link;
    this.svg = link.closest("svg");
    this.name = link.dataset.laid;
    this.address = figure().dataset.byHand;
    this.comes = svgElement("g", { class: "comes-to-lie" });
    this.comes.append(...[...link.children].map(child => child.cloneNode(true)));
    link.before(this.comes);
    // What is in the hand lies over all others.
    this.next = link.nextSibling;
    link.parentNode.append(link);
    link.classList.add("is-lifted");
    this.caption = figure().querySelector("figcaption");
    this.said = this.caption.textContent;
  }

  to(right, down) {
    [this.right, this.down] = [right, down];
    this.link.style.translate = `${right}px ${down}px`;
    const way = mm => lengthText(Math.abs(mm), unit());
    this.caption.textContent = `${way(right)} to the ${right < 0 ? "left" : "right"}, ${way(down)} ${down < 0 ? "up" : "down"}`;
    const form = document.querySelector(".move-piece");
    if (form && figure().dataset.chosen === this.name) {
      form.elements.right.value = lengthText(right, unit());
      form.elements.down.value = lengthText(down, unit());
    }
    this.#ask();
  }

  async #ask() {
    if (this.asking) return;
    this.asking = true;
    const { right, down } = this;
    const answer = await fetch(`${this.address}?${new URLSearchParams({ laid: this.name, turn: 0, right, down })}`).catch(() => null);
    const where = answer?.ok ? await answer.json().catch(() => null) : null;
    this.asking = false;
    if (this.over) return;
    if (where) {
      for (const other of this.svg.querySelectorAll(".in-the-way")) other.classList.remove("in-the-way");
      for (const other of where.inTheWay) pieceOf(this.svg, other)?.classList.add("in-the-way");
      this.comes.style.translate = `${where.right ?? 0}px ${where.down ?? 0}px`;
    }
    if (right !== this.right || down !== this.down) this.#ask();
  }

  end() {
    this.over = true;
    this.comes.remove();
    this.next?.before(this.link);
    this.caption.textContent = this.said;
    this.link.classList.remove("is-lifted");
    this.link.style.removeProperty("translate");
    for (const other of this.svg.querySelectorAll(".in-the-way")) other.classList.remove("in-the-way");
  }
}

/** A piece from beside the sheets in the hand. */
class Lifted {
  constructor(link) {
    this.name = link.dataset.beside;
    this.picture = link.firstElementChild.cloneNode(true);
    this.picture.classList.add("in-hand");
    document.body.append(this.picture);
  }

  to(event) {
    this.picture.style.translate = `${event.clientX}px ${event.clientY}px`;
  }

  /** Puts it onto the sheet that is seen, where the hand lets go of it. */
  async drop(event) {
    const svg = document.elementFromPoint(event.clientX, event.clientY)?.closest(".one-sheet svg"), sheet = new URLSearchParams(location.search).get("sheet");
    if (!svg || !sheet) return;
    const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
    await change(this.name, "PutOn", { to: sheet, x: at.x.toFixed(3), y: at.y.toFixed(3) });
  }

  end() {
    this.picture.remove();
  }
}

let held = null;

document.addEventListener("pointerdown", event => {
  const link = event.target.closest?.(".laid-piece, [data-beside]");
  if (!link || event.button || !figure()) return;
  held = { link, x: event.clientX, y: event.clientY, scale: link.closest("svg")?.getScreenCTM().a };
});
document.addEventListener("pointermove", event => {
  if (!held) return;
  const dx = event.clientX - held.x, dy = event.clientY - held.y;
  if (!held.way && Math.hypot(dx, dy) < StartPx) return;
  if (held.link.dataset.beside) {
    held.way ??= new Lifted(held.link);
    held.way.to(event);
  } else {
    held.way ??= new Way(held.link);
    held.way.to(dx / held.scale, dy / held.scale);
  }
});
document.addEventListener("pointerup", async event => {
  const { way } = held ?? {};
  held = null;
  if (!way) return;
  dropped = performance.now();
  if (way instanceof Lifted) {
    way.end();
    await way.drop(event);
    return;
  }
  await (besideAt(event) ? change(way.name, "Beside", {}) : move(way.name, way.right, way.down));
  way.end();
});
let dropped = 0;
for (const name of ["pointercancel", "dragstart"]) document.addEventListener(name, event => {
  if (name === "dragstart" && event.target.closest?.(".laid-piece, [data-beside]")) return event.preventDefault();
  held?.way?.end();
  held = null;
});

// A click chooses; one that ends a drag does nothing more.
document.addEventListener("click", event => {
  const link = event.target.closest?.(".laid-piece, [data-beside]");
  if (!link || event.ctrlKey || event.metaKey) return;
  event.preventDefault();
  event.stopPropagation();
  if (performance.now() - dropped > 80) choose(link.getAttribute("href"));
}, true);

// Arrow keys: a row of them is one move.
let row = null;
document.addEventListener("keydown", event => {
  const name = figure()?.dataset.chosen;
  if (event.key === "Escape" && held?.way) {
    held.way.end();
    held = null;
    dropped = performance.now();
    event.stopImmediatePropagation();
    return;
  }
  const by = arrowStep(event);
  if (!name || !by || event.ctrlKey || event.metaKey || event.target.closest("input, select, textarea, :popover-open")) return;
  const link = pieceOf(figure(), name);
  if (!link) return;
  event.preventDefault();
  if (!row || row.link !== link) row = { link, way: new Way(link) };
  row.way.to(row.way.right + by.x, row.way.down + by.y);
  clearTimeout(row.timer);
  row.timer = setTimeout(async () => {
    const { way } = row;
    row = null;
    await move(way.name, way.right, way.down);
    way.end();
  }, PauseMs);
});
