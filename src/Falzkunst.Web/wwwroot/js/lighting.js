import { thing } from "./table/svg.js";

/** What happens while something is pointed at, or gone to with the keyboard; `light` is given it, and nothing when it is over. */
const pointing = light => ({
  ["@mouseover"]({ target }) {
    light(target);
  },
  ["@focusin"]({ target }) {
    light(target);
  },
  ["@mouseleave"]() {
    light();
  },
  ["@focusout"]() {
    light();
  },
});

// Pointing at a row of the look table lights up what has that look.
export const looks = () => ({ rows: pointing(on => lightLook(on?.closest("[data-look]")?.dataset.look)) });

// Pointing at a line of the history lights up what it was about, as far as that is still there.
export const history = () => ({ lines: pointing(on => lightUp((on?.closest("[data-about]")?.dataset.about ?? "").split(" "))) });

// The reason for what something became is shown where one points.
document.addEventListener("mouseover", event => {
  const area = event.target.closest?.(".table-area");
  if (!area) return;
  const why = event.target.closest("[data-why]")?.dataset.why ?? "";
  const says = area.querySelector(".why") ?? area.appendChild(Object.assign(document.createElement("p"), { className: "why" }));
  says.textContent = why;
  says.hidden = !why;
});

function lightLook(look) {
  lightUp([]);
  if (look !== undefined) document.querySelectorAll(`.table-svg [data-look="${CSS.escape(look)}"]`).forEach(e => e.classList.add("lit"));
}

function lightUp(ids) {
  document.querySelectorAll(".table-svg .lit").forEach(e => e.classList.remove("lit"));
  const svg = document.querySelector(".table-svg");
  if (svg) for (const id of ids.filter(Boolean)) thing(svg, id)?.classList.add("lit");
}

/** Dims all plies but one; none where none is named. */
export function lightPly(ply) {
  document.querySelectorAll(".table-svg .ply").forEach(g => g.classList.toggle("dim", ply !== undefined && g.dataset.ply !== ply));
}
