// The thin place that is gone to is brought into the middle of the table, as near as it is looked at.
import { onTable } from "./table/table.js";

let shown = "";

function look() {
  const here = document.querySelector("[data-look-at]"), table = onTable();
  if (!here || !table) return;
  const [x, y, wide] = here.dataset.lookAt.split(" ").map(Number), key = `${location.search} ${here.dataset.lookAt}`;
  if (!wide || key === shown) return;
  shown = key;
  const w = Math.min(wide, table.home.w), h = w * table.view.h / table.view.w;
  table.show({ x: x - w / 2, y: y - h / 2, w, h });
}

for (const name of ["chosen", "htmx:afterSettle"]) document.addEventListener(name, look);

// What is not worked out yet is given up; what is there stays.
document.addEventListener("click", ({ target }) => {
  if (!target.closest?.("[data-stop-plates]")) return;
  const plates = document.getElementById("strengths");
  for (const waits of plates.querySelectorAll(".plate-waits[hx-get]")) waits.remove();
  window.htmx.trigger(plates, "htmx:abort");
});
