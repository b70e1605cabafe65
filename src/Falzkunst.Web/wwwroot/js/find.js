// Finds a piece, a look or an action by a part of its name, and does what choosing it would do.
export const find = () => ({
  hits: [],
  at: 0,
  candidates() {
    const seen = new Set();
    return [...document.querySelectorAll("#docket a, #docket button, #docket summary")].filter(e => !e.disabled && !e.closest("#find, #keys, .notice"))
      .map(e => ({
      e,
      name: (e.getAttribute("aria-label") ?? (e.textContent.trim() || e.title)).replace(/\s+/g, " ").trim(),
      kind: e.closest(".piece") && !e.closest(".line") ? "piece" : e.closest(".line") ? "line" : e.closest(".slip") ? "stage" : e.closest(".look") ? "look"
        : e.tagName === "SUMMARY" ? "group" : "action",
    })).filter(c => c.name && c.kind !== "line" && !seen.has(c.kind + c.name) && seen.add(c.kind + c.name));
  },
  look() {
    const words = this.$root.querySelector("input").value.toLowerCase().split(/\s+/).filter(Boolean);
    this.hits = this.candidates().filter(c => words.every(w => c.name.toLowerCase().includes(w))).slice(0, 9);
    this.at = 0;
    this.show();
  },
  show() {
    const list = this.$root.querySelector("ul");
    list.replaceChildren(...this.hits.map((hit, i) => {
      const li = document.createElement("li");
      li.id = `hit-${i}`;
      li.role = "option";
      li.setAttribute("aria-selected", i === this.at);
      li.textContent = hit.name;
      const kind = document.createElement("span");
      kind.className = "quiet";
      kind.textContent = hit.kind;
      li.append(kind);
      li.addEventListener("click", () => this.take(i));
      return li;
    }));
    this.$root.querySelector("input").setAttribute("aria-activedescendant", this.hits.length ? `hit-${this.at}` : "");
    this.$root.querySelector(".find-none").hidden = this.hits.length > 0;
  },
  take(i) {
    const hit = this.hits[i];
    if (!hit) return;
    this.$root.hidePopover();
    // An SVG link has no click() of its own.
    hit.e.dispatchEvent(new MouseEvent("click", { bubbles: true, cancelable: true }));
    if (hit.e.tagName === "SUMMARY") hit.e.focus();
  },
  field: {
    ["@input"]() {
      this.look();
    },
    ["@keydown"](event) {
      const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
      if (step && this.hits.length) {
        event.preventDefault();
        this.at = (this.at + step + this.hits.length) % this.hits.length;
        this.show();
      } else if (event.key === "Enter") {
        event.preventDefault();
        this.take(this.at);
      }
    },
  },
  box: {
    ["@toggle"](event) {
      if (event.newState !== "open") return;
      this.$root.querySelector("input").value = "";
      this.look();
      this.$root.querySelector("input").focus();
    },
  },
});
