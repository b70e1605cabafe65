// Pointing at what could be done shows on the table, in tint, what would come of it: on a plate its picture is there already, of a treatment it is asked for.
import { onTable } from "./table/table.js";
import { svgElement } from "./table/svg.js";

const PauseMs = 120, SlidePauseMs = 20;
let asked = null;
let timer = 0;

function clear() {
  clearTimeout(timer);
  asked?.abort();
  document.querySelector(".tint-svg")?.remove();
  for (const o of document.querySelectorAll(".previewed")) o.textContent = "";
}

/** @param {[string, string][]} paths each with its class */
function lay(paths) {
  const table = onTable();
  if (!table) return;
  const { x, y, w, h } = table.view;
  const tint = svgElement("svg", { class: "tint-svg", viewBox: `${x} ${y} ${w} ${h}`, preserveAspectRatio: "none", "aria-hidden": "true" });
  tint.append(...paths.filter(([d]) => d).map(([d, is]) => svgElement("path", { d, class: is, "fill-rule": "evenodd" })));
  table.area.append(tint);
}

/** The one button of a form that shows what comes of it; none where there are several. */
function onlyButton(form) {
  const buttons = form?.dataset.previews ? form.querySelectorAll("button:not([type=button])") : [];
  return buttons.length === 1 ? buttons[0] : null;
}

async function ask(form, button) {
  const query = new URLSearchParams(new FormData(form, button));
  query.delete("__RequestVerificationToken");
  asked = new AbortController();
  const { signal } = asked;
  const address = form.dataset.previews.replace("handler=", `${query}&handler=`);
  const answer = await fetch(address, { signal }).catch(() => null);
  const { comes = "", gone = "", lines = "", says = "" } = answer?.ok ? await answer.json().catch(() => ({})) : {};
  if (signal.aborted) return;
  lay([[comes, "comes"], [gone, "gone"], [lines, "comes-line"]]);
  const words = form.querySelector(".previewed");
  if (words) words.textContent = says;
}

for (const name of ["mouseover", "focusin"]) document.addEventListener(name, ({ target }) => {
  const plate = target.closest?.("#together .plate"), button = target.closest?.("[data-previews] button:not([type=button])");
  if (!plate && !button) {
    // What a slider shows stays while that is at hand, wherever the pointer lies.
    const isShown = document.querySelector(".tint-svg, .previewed:not(:empty)") || timer;
    const atHand = document.activeElement;
    return isShown && !atHand?.dataset?.slides && !onlyButton(atHand?.form) ? clear() : undefined;
  }
  clear();
  if (plate) lay([...plate.querySelectorAll("svg path[fill-rule]")].map(path => [path.getAttribute("d"), "comes"]));
  else timer = setTimeout(ask, PauseMs, button.form, button);
});

// A slider writes into the field that it slides, and shows at once what would come of it.
document.addEventListener("input", ({ target }) => {
  const { form } = target, field = form?.elements[target.dataset?.slides];
  if (field) field.value = `${target.value} mm`;
  // What is typed or chosen shows as well, where only one thing can come of it.
  const button = field ? form.querySelector("button[name=how]") : onlyButton(form);
  if (!button) return;
  clearTimeout(timer);
  asked?.abort();
  timer = setTimeout(ask, field ? SlidePauseMs : PauseMs, form, button);
});
// What is only looked up meanwhile changes nothing that is shown.
document.addEventListener("htmx:afterRequest", ({ detail }) => {
  if (detail.requestConfig?.verb === "post") clear();
});
