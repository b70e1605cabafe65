// Everything works without scripts; with them it gets quicker and has keys. Alpine keeps the small state of a view, htmx swaps the docket.
import table from "./table.js";

document.addEventListener("alpine:init", () => {
  window.Alpine.data("table", table);

  // Pointing at a ply of the pile lights up its pieces on the table.
  window.Alpine.data("pile", () => ({
    box: {
      ["@mouseover"](event) {
        light(event.target.closest("[data-ply]")?.dataset.ply);
      },
      ["@mouseleave"]() {
        light();
      },
    },
  }));

  // A file that is dropped or chosen is sent at once.
  window.Alpine.data("drop", () => ({
    state: "",
    send(files) {
      if (!files?.length) return;
      const chooser = this.$root.querySelector("input[type=file]");
      chooser.files = files;
      this.state = `Reading ${files[0].name} …`;
      this.$root.submit();
    },
    zone: {
      ["@dragover.prevent"]() {
        this.$root.classList.add("is-over");
      },
      ["@dragleave"]() {
        this.$root.classList.remove("is-over");
      },
      ["@drop.prevent"](event) {
        this.$root.classList.remove("is-over");
        this.send(event.dataTransfer.files);
      },
    },
    chooser: {
      ["@change"]() {
        this.send(this.$el.files);
      },
    },
  }));
});

function light(ply) {
  document.querySelectorAll(".table-svg .ply").forEach(g => g.classList.toggle("dim", ply !== undefined && g.dataset.ply !== ply));
}

// One group of the card is open at a time. (The browser's own exclusive groups would shut a group while it is being swapped.)
document.addEventListener("toggle", event => {
  if (!event.target.matches?.("details.group[open]")) return;
  for (const other of event.target.parentElement.querySelectorAll(":scope > details.group[open]")) if (other !== event.target) other.open = false;
}, true);

const press = key => document.querySelector(`[data-key="${CSS.escape(key)}"]:not(:disabled)`)?.click();

document.addEventListener("keydown", event => {
  if (event.target.closest("input, select, textarea")) return;
  if (event.ctrlKey || event.metaKey) {
    if (event.key.toLowerCase() !== "z") return;
    event.preventDefault();
    press(event.shiftKey ? "redo" : "undo");
    return;
  }
  if (event.altKey) return;
  if (/^[1-7]$/.test(event.key)) press(event.key);
  else if (event.key === "f" || event.key === "F") dispatchEvent(new CustomEvent("falz-fit"));
  else if (event.key === "x" || event.key === "X") document.querySelector(".view-pair a:not([aria-current])")?.click();
  else if (event.key === "?") press("help");
  else if (event.key === "Escape" && !document.querySelector("#keys:popover-open")) press("escape");
});

document.addEventListener("click", event => {
  const show = event.target.closest("[data-show]");
  if (!show || !document.querySelector(".table-svg")) return;
  // The place is on this table: go there without asking the server.
  event.preventDefault();
  event.stopPropagation();
  const [x, y] = show.dataset.show.split(" ").map(Number);
  dispatchEvent(new CustomEvent("falz-show", { detail: { x, y } }));
}, true);

// What failed on the way to the server is said, instead of doing nothing.
document.addEventListener("htmx:responseError", event => {
  const { xhr } = event.detail;
  if (xhr.responseText.startsWith("<!")) {
    document.open();
    document.write(xhr.responseText);
    document.close();
  }
});
document.addEventListener("htmx:sendError", () => {
  const line = document.querySelector(".finding-text");
  if (line) line.textContent = "The application does not answer. Nothing was changed; try again in a moment.";
});

// Alpine comes last, when its parts are known.
const alpine = document.createElement("script");
alpine.src = new URL("../lib/alpine.min.js", import.meta.url).href;
document.head.append(alpine);
