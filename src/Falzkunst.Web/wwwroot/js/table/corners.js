// Choosing corners of a piece on the table: each is marked, and clicked to be rounded or not.
import { onTable } from "./table.js";
import { svgElement } from "./svg.js";

let on = null;

function end() {
  on?.marks.remove();
  on?.button.setAttribute("aria-pressed", "false");
  on = null;
}

/** Draws the marks where they lie in the view of now. */
function draw() {
  if (!on) return;
  const table = onTable();
  if (!table || !on.button.isConnected) return end();
  const { x, y, w, h } = table.view, px = table.mmPerPixel();
  on.marks.setAttribute("viewBox", `${x} ${y} ${w} ${h}`);
  on.marks.replaceChildren(...on.corners.map(([cx, cy], k) => {
    const chosen = on.chosen.has(k);
    const mark = svgElement("g", { class: chosen ? "corner is-chosen" : "corner", role: "checkbox", tabindex: "0", "aria-checked": String(chosen),
      "aria-label": `Corner ${k + 1}`, "data-corner": k });
    mark.append(svgElement("circle", { class: "reach", cx, cy, r: 16 * px }), svgElement("circle", { class: "knob", cx, cy, r: 6 * px }));
    return mark;
  }));
}

function toggle(mark) {
  const k = Number(mark.dataset.corner);
  if (!on.chosen.delete(k)) on.chosen.add(k);
  on.button.form.elements.only.value = [...on.chosen].join(",");
  draw();
  on.marks.querySelector(`[data-corner="${k}"]`)?.focus();
}

async function begin(button) {
  const corners = await fetch(button.dataset.corners).then(a => a.ok ? a.json() : []).catch(() => []);
  const table = onTable();
  if (!table || !button.isConnected) return;
  on = { button, corners, chosen: new Set(), marks: svgElement("svg", { class: "corners-svg", preserveAspectRatio: "none" }) };
  table.area.append(on.marks);
  button.setAttribute("aria-pressed", "true");
  const words = button.form.querySelector(".previewed");
  if (words) words.textContent = corners.length ? `Click those of the ${corners.length} corners that are to be rounded.` : "It has no corners to choose from.";
  draw();
}

document.addEventListener("click", event => {
  const button = event.target.closest("[data-corners]"), mark = event.target.closest("[data-corner]");
  if (mark && on) {
    event.stopPropagation();
    toggle(mark);
  } else if (button) {
    const was = on?.button === button;
    if (on) button.form.elements.only.value = "";
    end();
    if (!was) begin(button);
  }
}, true);
document.addEventListener("keydown", event => {
  if (on && event.key === "Escape") {
    event.stopPropagation();
    on.button.form.elements.only.value = "";
    return end();
  }
  const mark = event.target.closest?.("[data-corner]");
  if (!on || !mark || (event.key !== " " && event.key !== "Enter")) return;
  event.preventDefault();
  toggle(mark);
}, true);
document.addEventListener("chosen", () => on && !on.button.isConnected && end());
document.addEventListener("looked", draw);
document.addEventListener("htmx:afterRequest", draw);
