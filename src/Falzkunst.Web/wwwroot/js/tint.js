// Pointing at what pieces could become shows it on the table, in tint; the picture on the plate is what is laid there.
import { onTable } from "./table/table.js";
import { svgElement } from "./table/svg.js";

function show(plate) {
  document.querySelector(".tint-svg")?.remove();
  const table = onTable(), picture = plate?.querySelector("svg");
  if (!table || !picture) return;
  const { x, y, w, h } = table.view;
  const tint = svgElement("svg", { class: "tint-svg", viewBox: `${x} ${y} ${w} ${h}`, preserveAspectRatio: "none", "aria-hidden": "true" });
  for (const path of picture.querySelectorAll("path[fill-rule]")) tint.append(svgElement("path", { d: path.getAttribute("d"), "fill-rule": "evenodd" }));
  table.area.append(tint);
}

for (const name of ["mouseover", "focusin"]) document.addEventListener(name, ({ target }) => {
  const plate = target.closest?.("#together .plate");
  if (plate) show(plate);
  else if (document.querySelector(".tint-svg")) show(null);
});
document.addEventListener("htmx:afterRequest", () => show(null));
