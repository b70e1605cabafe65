import { lightPly } from "./lighting.js";
import { onTable } from "./table/table.js";
import { selection } from "./table/selection.js";

// Pointing at a ply of the pile lights up its pieces on the table; a click chooses them; dragging moves it to another place in the pile.
export const pile = () => ({
  drag: null,
  plies() {
    return [...this.$root.querySelectorAll(".pile-ply")];
  },
  box: {
    ["@pointerdown"](event) {
      const ply = event.target.closest(".pile-ply");
      if (!ply || event.button !== 0) return;
      event.preventDefault();
      const tops = this.plies().map(p => p.getBoundingClientRect()).map(r => (r.top + r.bottom) / 2);
      this.drag = { ply, y: event.clientY, tops, from: this.plies().indexOf(ply), scale: 1 / ply.getScreenCTM().d };
      this.$root.setPointerCapture(event.pointerId);
    },
    ["@pointermove"](event) {
      if (!this.drag) return;
      const { ply, tops, from, scale } = this.drag;
      const moved = event.clientY - this.drag.y;
      ply.classList.toggle("is-held", Math.abs(moved) > 3);
      ply.style.transform = `translateY(${moved * scale}px)`;
      // Its place is among those that it has been carried past.
      const now = tops[from] + moved;
      this.drag.to = tops.filter((top, i) => i !== from && top > now).length;
      this.plies().forEach(p => p.classList.remove("is-under"));
      const rest = this.plies().filter(p => p !== ply);
      if (this.drag.to !== from && this.drag.to > 0) rest[this.drag.to - 1].classList.add("is-under");
    },
    ["@pointerup"](event) {
      if (!this.drag) return;
      const { ply, from, to, y } = this.drag;
      this.drag = null;
      if (Math.abs(event.clientY - y) <= 3) choosePly(ply.dataset.ply, event.shiftKey);
      if (to === undefined || to === from) {
        ply.style.transform = "";
        ply.classList.remove("is-held");
        return;
      }
      const form = this.$root.querySelector(".pile-move");
      form.elements.ply.value = ply.dataset.ply;
      form.elements.to.value = to;
      form.requestSubmit();
    },
    ["@mouseover"](event) {
      lightPly(event.target.closest("[data-ply]")?.dataset.ply);
    },
    ["@mouseleave"]() {
      lightPly();
    },
  },
});

function choosePly(ply, more) {
  if (!onTable()) return;
  const pieces = [...onTable().svg.querySelectorAll(`.ply[data-ply="${CSS.escape(ply)}"] > .piece`)].map(p => p.dataset.id);
  if (more) selection.add(pieces);
  else selection.choose({ pieces });
}
