// Keys, all of them in the list that `?` shows.
import { onTable } from "./table/table.js";
import { arrowStep } from "./arrows.js";
import { selection } from "./table/selection.js";

const press = key => document.querySelector(`[data-key="${CSS.escape(key)}"]:not(:disabled)`)?.click();

document.addEventListener("keydown", event => {
  if (event.target.closest("input, select, textarea")) {
    // What was typed is given up, and the keys are the table's again.
    if (event.key === "Escape" && onTable() && event.target.closest("#card")) {
      event.target.form?.reset();
      event.target.blur();
    }
    return;
  }
  if (event.ctrlKey || event.metaKey) {
    const key = event.key.toLowerCase();
    if (key !== "z" && !(key === "d" && document.querySelector("[data-key=double]"))) return;
    event.preventDefault();
    press(key === "d" ? "double" : event.shiftKey ? "redo" : "undo");
    return;
  }
  const by = arrowStep(event);
  if (by && onTable() && !document.querySelector(":popover-open")) {
    if (onTable().nudge(by.x, by.y)) event.preventDefault();
    return;
  }
  if (event.altKey) return;
  if (onTable()?.type(event.key)) return event.preventDefault();
  if (event.key === "Delete") press("delete");
  else if (/^[1-7]$/.test(event.key)) press(event.key);
  else if (event.key === "n" || event.key === "N") press("next-place");
  else if (event.key === "p" || event.key === "P") press("previous-place");
  else if (event.key === "f" || event.key === "F") onTable()?.fit();
  else if (event.key === "x" || event.key === "X") press(document.querySelector("[data-key=apart]:not([aria-current])") ? "apart" : "together");
  else if (event.key === "m" || event.key === "M") press("measure");
  else if (event.key === "/") {
    event.preventDefault();
    document.getElementById("find")?.showPopover();
  } else if (event.key === "?") press("help");
  else if (event.key === "Escape" && !document.querySelector("#keys:popover-open")) {
    if (onTable()?.giveUp()) return;
    if (onTable()?.canChoose) selection.choose();
    else press("escape");
  }
});
