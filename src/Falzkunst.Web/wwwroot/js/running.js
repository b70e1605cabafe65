// A run that is watched: how far the step under way is, is shown on the sheet and in the list; and lines that are clicked on a finished sheet, or a frame that
// is drawn on it, say what is done again.
const stateOf = (part, now, strokes) => {
  const step = Number(part.dataset.step);
  return step < now || (step === now && Number(part.dataset.over ?? Infinity) <= strokes) ? "is-done" : step === now ? "is-now" : "is-ahead";
};

document.addEventListener("htmx:afterSwap", ({ target }) => {
  const { at, strokes } = target.querySelector?.("[data-at]")?.dataset ?? {};
  if (!(Number(at) > 0) || !target.matches(".progress-box")) return;
  for (const part of document.querySelectorAll(".run-sheet [data-step], .steps [data-step]")) {
    const state = stateOf(part, Number(at), Number(strokes));
    if (part.classList.contains(state)) continue;
    part.classList.remove("is-done", "is-now", "is-ahead");
    part.classList.add(state);
  }
});

/** Where an event is on the sheet, in mm. */
function onSheet(svg, event) {
  const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
  return { x: at.x, y: at.y };
}

/** Chooses the line at a place, or leaves it out again: which one that is, the server says. */
function pick(form, { x, y }) {
  const address = new URL(location.href);
  address.searchParams.delete("handler");
  address.searchParams.set("sheet", form.dataset.sheet);
  address.searchParams.set("pick", [form.dataset.touchUp, `${x.toFixed(1)},${y.toFixed(1)}`].filter(Boolean).join(";"));
  for (const name of ["force", "passes"]) address.searchParams.set(name, form.elements[name].value);
  htmx.ajax("GET", address.pathname + address.search, { target: "#docket", select: "#docket", swap: "outerHTML show:none" });
}

document.addEventListener("pointerdown", down => {
  const svg = down.target.closest?.(".run-sheet .sheet-svg");
  const form = document.querySelector("[data-touch-up]");
  if (!svg || !form || down.button !== 0) return;
  down.preventDefault();
  form.closest("details").open = true;
  const from = onSheet(svg, down);
  svg.querySelector(".frame")?.remove();
  const frame = document.createElementNS("http://www.w3.org/2000/svg", "rect");
  frame.setAttribute("class", "frame");
  svg.append(frame);
  svg.setPointerCapture(down.pointerId);
  const move = event => {
    const to = onSheet(svg, event);
    const box = { x: Math.min(from.x, to.x), y: Math.min(from.y, to.y), wide: Math.abs(to.x - from.x), high: Math.abs(to.y - from.y) };
    for (const [name, key] of [["x", "x"], ["y", "y"], ["wide", "width"], ["high", "height"]]) {
      frame.setAttribute(key, box[name]);
      form.elements[name].value = `${box[name].toFixed(1)} mm`;
    }
  };
  const up = event => {
    move(event);
    svg.removeEventListener("pointermove", move);
    // A click is no frame.
    if (Number(frame.getAttribute("width")) < 0.5 && Number(frame.getAttribute("height")) < 0.5) {
      frame.remove();
      for (const name of ["x", "y", "wide", "high"]) form.elements[name].value = "";
      pick(form, from);
    }
  };
  svg.addEventListener("pointermove", move);
  svg.addEventListener("pointerup", up, { once: true });
});
