// Something from the shelf is dragged onto the table, and lies where it is let go.
import { onTable } from "./table/table.js";
import { post } from "./table/asking.js";

let dragged = null;

document.addEventListener("dragstart", event => {
  dragged = event.target.closest?.("#shelf [name=kept]")?.value ?? null;
  if (dragged) event.dataTransfer.setData("text/plain", "");
});
document.addEventListener("dragend", () => dragged = null);
document.addEventListener("dragover", event => {
  if (dragged && event.target.closest("#main") && onTable()?.canMove) event.preventDefault();
});
document.addEventListener("drop", event => {
  if (!dragged || !event.target.closest("#main") || !onTable()?.canMove) return;
  event.preventDefault();
  const { x, y } = onTable().at(event);
  post("Take", { kept: dragged, x: x.toFixed(4), y: y.toFixed(4) });
});
