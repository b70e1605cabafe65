// Pointing at a row of the look table lights up what has that look.
export const looks = () => ({
  rows: {
    ["@mouseover"](event) {
      lightLook(event.target.closest("[data-look]")?.dataset.look);
    },
    ["@focusin"](event) {
      lightLook(event.target.closest("[data-look]")?.dataset.look);
    },
    ["@mouseleave"]() {
      lightLook();
    },
    ["@focusout"]() {
      lightLook();
    },
  },
});

// Pointing at a line of the history lights up what it was about, as far as that is still there.
export const history = () => ({
  lines: {
    ["@mouseover"](event) {
      lightUp((event.target.closest("[data-about]")?.dataset.about ?? "").split(" "));
    },
    ["@focusin"](event) {
      lightUp((event.target.closest("[data-about]")?.dataset.about ?? "").split(" "));
    },
    ["@mouseleave"]() {
      lightUp([]);
    },
    ["@focusout"]() {
      lightUp([]);
    },
  },
});

function lightLook(look) {
  lightUp([]);
  if (look !== undefined) document.querySelectorAll(`.table-svg [data-look="${CSS.escape(look)}"]`).forEach(e => e.classList.add("lit"));
}

function lightUp(ids) {
  document.querySelectorAll(".table-svg .lit").forEach(e => e.classList.remove("lit"));
  for (const id of ids.filter(Boolean)) document.querySelector(`.table-svg [data-id="${CSS.escape(id)}"]`)?.classList.add("lit");
}

/** Dims all plies but one; none where none is named. */
export function lightPly(ply) {
  document.querySelectorAll(".table-svg .ply").forEach(g => g.classList.toggle("dim", ply !== undefined && g.dataset.ply !== ply));
}
