// The little box in which the grid is set up.
import { onTable } from "./table.js";
import { lengthText } from "./view.js";

const box = () => document.querySelector(".grid-box");

/** Shows in the box what is kept. */
export function showGrid() {
  const lines = onTable()?.lines, b = box();
  if (!b || !lines) return;
  b.hidden = !onTable().canMove;
  const { step, how, catches } = lines.kept;
  b.querySelector("[name=step]").value = step > 0 ? lengthText(step, onTable().unit()) : "";
  for (const radio of b.querySelectorAll("[name=grid-how]")) radio.checked = radio.value === how;
  b.querySelector("[name=catches]").checked = catches;
}

async function read(field) {
  if (!field.value.trim()) return 0;
  const answer = await fetch(`${field.dataset.read}?text=${encodeURIComponent(field.value)}`);
  const said = await answer.json();
  field.setCustomValidity(said.error ?? (said.mm > 0 ? "" : "A grid has a spacing above 0."));
  field.reportValidity();
  return answer.ok && said.mm > 0 ? said.mm : null;
}

document.addEventListener("change", async ({ target }) => {
  const b = target.closest?.(".grid-box"), lines = onTable()?.lines;
  if (!b || !lines) return;
  const step = await read(b.querySelector("[name=step]"));
  if (step === null) return;
  lines.set({ step, how: b.querySelector("[name=grid-how]:checked")?.value ?? "lines", catches: b.querySelector("[name=catches]").checked });
  showGrid();
});
document.addEventListener("click", ({ target }) => {
  if (target.closest?.("[data-clear-guides]")) onTable()?.lines.clear();
});
document.addEventListener("chosen", showGrid);
