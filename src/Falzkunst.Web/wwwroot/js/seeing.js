// Plies that are not looked at: hidden one by one, or all but one. Only how the table is seen; nothing of the card.
const hidden = new Map();

const of = () => {
  const docket = document.getElementById("docket")?.dataset.docket ?? "";
  if (!hidden.has(docket)) hidden.set(docket, new Set());
  return hidden.get(docket);
};
const plies = () => [...document.querySelectorAll(".table-svg .ply")];

/** Shows the table and the buttons as it was chosen; anew after whatever wrote them. */
function show() {
  const away = of(), all = plies();
  for (const ply of all) ply.classList.toggle("is-hidden", away.has(ply.dataset.ply));
  const seen = all.filter(p => !away.has(p.dataset.ply));
  for (const b of document.querySelectorAll("[data-hide]")) b.setAttribute("aria-pressed", String(away.has(b.dataset.hide)));
  for (const b of document.querySelectorAll("[data-alone]")) b.setAttribute("aria-pressed",
    String(all.length > 1 && seen.length === 1 && seen[0].dataset.ply === b.dataset.alone));
}

document.addEventListener("click", event => {
  const button = event.target.closest("[data-hide], [data-alone]");
  if (!button) return;
  const away = of(), { hide, alone } = button.dataset;
  if (hide) {
    if (!away.delete(hide)) away.add(hide);
  } else {
    const was = button.getAttribute("aria-pressed") === "true";
    away.clear();
    if (!was) for (const ply of plies()) if (ply.dataset.ply !== alone) away.add(ply.dataset.ply);
  }
  show();
});

// What cuts through what is seen leaves alone what is not.
document.addEventListener("htmx:configRequest", event => {
  if (event.target.matches?.("form[data-with-hidden]")) event.detail.parameters.hidden = [...of()].join(",");
});

for (const name of ["htmx:afterSettle", "htmx:afterRequest", "chosen"]) document.addEventListener(name, show);
