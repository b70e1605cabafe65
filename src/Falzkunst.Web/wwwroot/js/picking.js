// Takes a colour from the table into the field before the button.
import { onTable } from "./table/table.js";

let field = null;

function stop() {
  field = null;
  document.body.classList.remove("is-picking");
}

/** The buttons need a table to pick from, and a script. */
function show() {
  for (const button of document.querySelectorAll("[data-pick]")) button.hidden = !onTable();
}

async function take(input, { x, y }) {
  const address = new URL(location.href);
  for (const [key, value] of Object.entries({ handler: "Colour", x, y })) address.searchParams.set(key, value);
  const answer = await fetch(address);
  if (answer.ok) input.value = await answer.text();
  input.focus();
}

document.addEventListener("click", event => {
  const button = event.target.closest("[data-pick]"), table = onTable();
  if (button) {
    field = button.parentElement.querySelectorAll("input[type=color]")[[...button.parentElement.querySelectorAll("[data-pick]")].indexOf(button)];
    document.body.classList.add("is-picking");
  } else if (field) {
    // What is clicked gives its colour; it is not chosen.
    if (table?.area.contains(event.target)) {
      event.preventDefault();
      event.stopPropagation();
      take(field, table.at(event));
    }
    stop();
  }
}, true);
document.addEventListener("keydown", event => {
  if (event.key !== "Escape" || !field) return;
  event.stopPropagation();
  stop();
}, true);
for (const name of ["htmx:afterSettle", "htmx:afterSwap", "chosen"]) document.addEventListener(name, show);
