// Everything works without scripts; with them it gets quicker and has keys. Alpine keeps the small state of a view, htmx swaps the docket.
import table from "./table.js";

document.addEventListener("alpine:init", () => {
  window.Alpine.data("table", table);

  // Pointing at a ply of the pile lights up its pieces on the table; dragging it moves it to another place in the pile.
  window.Alpine.data("pile", () => ({
    drag: null,
    plies() {
      return [...this.$root.querySelectorAll(".pile-ply")];
    },
    box: {
      ["@pointerdown"](event) {
        const ply = event.target.closest(".pile-ply");
        if (!ply || event.button !== 0 || this.plies().length < 2) return;
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
      ["@pointerup"]() {
        if (!this.drag) return;
        const { ply, from, to } = this.drag;
        this.drag = null;
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
        light(event.target.closest("[data-ply]")?.dataset.ply);
      },
      ["@mouseleave"]() {
        light();
      },
    },
  }));

  // Finds a piece, a look or an action by a part of its name, and does what choosing it would do.
  window.Alpine.data("find", () => ({
    hits: [],
    at: 0,
    candidates() {
      const seen = new Set();
      return [...document.querySelectorAll("#docket a, #docket button, #docket summary")].filter(e => !e.disabled && !e.closest("#find, #keys, .notice")).map(e => ({
        e,
        name: (e.getAttribute("aria-label") ?? (e.textContent.trim() || e.title)).replace(/\s+/g, " ").trim(),
        kind: e.closest(".piece") && !e.closest(".line") ? "piece" : e.closest(".line") ? "line" : e.closest(".slip") ? "stage" : e.closest(".look") ? "look" : e.tagName === "SUMMARY" ? "group" : "action",
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
  }));

  // While a slider moves, the table shows what tracing would make of the picture; when it is let go, the form is sent.
  window.Alpine.data("tracing", () => ({
    busy: false,
    again: false,
    async preview() {
      if (this.busy) {
        this.again = true;
        return;
      }
      this.busy = true;
      const form = this.$root, svg = document.querySelector(".table-svg");
      const fields = new URLSearchParams([...new FormData(form)].filter(([name]) => name !== "__RequestVerificationToken" && name !== "basedOn"));
      try {
        const answer = await fetch(`${form.dataset.preview}?${fields}`);
        if (answer.ok && svg.isConnected && !form.classList.contains("htmx-request")) showPreview(svg, await answer.text());
      } catch {
        // Without an answer the table stays as it is; letting go sends the form, which says what is wrong.
      }
      this.busy = false;
      if (this.again) {
        this.again = false;
        this.preview();
      }
    },
    form: {
      ["@input"](event) {
        const { target } = event;
        const output = target.closest(".slider")?.querySelector("output");
        if (!output) return;
        output.textContent = target.value + (output.dataset.unit ?? "");
        this.preview();
      },
    },
  }));

  // On the picture: a click takes a place away, a dragged rectangle crops. Both only fill in the form's fields.
  window.Alpine.data("pictureTools", () => ({
    crop: false,
    from: null,
    says: "Click a place of the picture to take it away; what looks like it and is joined to it goes too.",
    init() {
      this.svg = document.querySelector(".table-svg");
      this.svg.addEventListener("pointerdown", event => this.down(event));
      // The table takes the pointer while the picture is moved, so what follows is heard there.
      const area = this.svg.closest(".table-area");
      area.addEventListener("pointermove", event => this.move(event));
      area.addEventListener("pointerup", event => this.up(event));
    },
    at(event) {
      const { left, top, mm, width, height } = this.svg.querySelector(".trace-preview").dataset;
      const p = new DOMPoint(event.clientX, event.clientY).matrixTransform(this.svg.getScreenCTM().inverse());
      const px = (v, most) => Math.min(Math.max(0, v), most);
      return { x: px((p.x - left) / mm, +width), y: px((p.y - top) / mm, +height), inside: p.x >= left && p.y >= top && (p.x - left) / mm < width && (p.y - top) / mm < height };
    },
    down(event) {
      this.from = event.button === 0 ? { ...this.at(event), clientX: event.clientX, clientY: event.clientY } : null;
      if (!this.crop || !this.from) return;
      event.stopPropagation();
      this.svg.setPointerCapture(event.pointerId);
    },
    move(event) {
      if (!this.crop || !this.from) return;
      const to = this.at(event);
      const { left, top, mm } = this.svg.querySelector(".trace-preview").dataset;
      let box = this.svg.querySelector(".crop-box");
      if (!box) {
        box = document.createElementNS("http://www.w3.org/2000/svg", "rect");
        box.setAttribute("class", "crop-box");
        this.svg.append(box);
      }
      box.setAttribute("x", +left + Math.min(this.from.x, to.x) * mm);
      box.setAttribute("y", +top + Math.min(this.from.y, to.y) * mm);
      box.setAttribute("width", Math.abs(to.x - this.from.x) * mm);
      box.setAttribute("height", Math.abs(to.y - this.from.y) * mm);
    },
    up(event) {
      const { from } = this;
      this.from = null;
      if (!from) return;
      const to = this.at(event);
      const form = document.getElementById("trace-form");
      if (this.crop) {
        const box = [Math.min(from.x, to.x), Math.min(from.y, to.y), Math.abs(to.x - from.x), Math.abs(to.y - from.y)].map(Math.floor);
        if (box[2] < 3 || box[3] < 3) return;
        form.elements.crop.value = box.join(", ");
      } else {
        if (!to.inside || Math.hypot(event.clientX - from.clientX, event.clientY - from.clientY) > 3) return;
        const { touched } = form.elements;
        touched.value = (touched.value ? `${touched.value}; ` : "") + `${Math.floor(to.x)}, ${Math.floor(to.y)}`;
      }
      form.elements.touched.dispatchEvent(new Event("change", { bubbles: true }));
    },
    cropper: {
      ["@click.stop"]() {
        this.crop = !this.crop;
        this.$el.setAttribute("aria-pressed", this.crop);
        this.svg.classList.toggle("is-cropping", this.crop);
        this.says = this.crop ? "Drag over what is to be traced." : "Click a place of the picture to take it away; what looks like it and is joined to it goes too.";
      },
    },
    box: {
      ["@pointerdown.stop"]() {},
    },
  }));

  // Files that are dropped or chosen are sent at once, and it is seen how far that is; a folder that is dropped goes with all that is in it.
  window.Alpine.data("drop", () => ({
    state: "",
    said: "",
    part: 0,
    request: null,
    /** @param {{file: File, path: string}[]} brought */
    send(brought) {
      if (!brought.length || this.request) return;
      const form = this.$root, most = Number(form.dataset.most);
      const large = brought.find(b => b.file.size > most);
      if (large) {
        this.said = `“${large.file.name}” is larger than ${Math.round(most / 1e6)} MB. Nothing was brought in; take it apart, or save the pictures in it smaller.`;
        return;
      }
      const data = new FormData(form), name = brought.length > 1 ? `${brought.length} files` : brought[0].file.name;
      data.delete("file");
      for (const { file, path } of brought) data.append("file", file, path);
      const request = this.request = new XMLHttpRequest();
      const over = said => Object.assign(this, { request: null, state: "", said });
      request.open("POST", form.action);
      request.setRequestHeader("X-Sends-Itself", "1");
      request.upload.addEventListener("progress", e => {
        this.part = e.loaded / e.total;
        this.state = e.loaded < e.total ? `Sending ${name}: ${(e.loaded / 1e6).toFixed(1)} of ${(e.total / 1e6).toFixed(1)} MB` : `Reading ${name} …`;
      });
      request.addEventListener("load", () => {
        const there = request.status === 204 && request.getResponseHeader("Location");
        if (there) location.assign(there);
        else replacePage(request.responseText);
      });
      request.addEventListener("error", () => over("The application does not answer. Nothing was brought in; try again in a moment."));
      request.addEventListener("abort", () => over("Stopped. Nothing was brought in."));
      this.said = "";
      this.part = 0;
      this.state = `Sending ${name} …`;
      request.send(data);
    },
    zone: {
      ["@dragover.prevent"]() {
        this.$root.classList.add("is-over");
      },
      ["@dragleave"]() {
        this.$root.classList.remove("is-over");
      },
      async ["@drop.prevent"](event) {
        this.$root.classList.remove("is-over");
        this.send(await droppedFiles(event.dataTransfer));
      },
    },
    chooser: {
      ["@change"]() {
        this.send([...this.$el.files].map(file => ({ file, path: file.webkitRelativePath || file.name })));
        this.$el.value = "";
      },
    },
    shown: {
      [":hidden"]() {
        return !this.request;
      },
    },
    bar: {
      [":value"]() {
        return this.part;
      },
    },
    stop: {
      ["@click"]() {
        this.request?.abort();
      },
    },
  }));

  // Pointing at a row of the look table lights up what has that look.
  window.Alpine.data("looks", () => ({
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
  }));
});

function showPreview(svg, markup) {
  const next = new DOMParser().parseFromString(`<svg xmlns="http://www.w3.org/2000/svg">${markup}</svg>`, "image/svg+xml").documentElement.firstElementChild;
  const now = svg.querySelector(".trace-preview");
  svg.classList.add("is-tracing");
  if (now) {
    // The picture itself stays, so that it does not flicker.
    const picture = now.querySelector(".original"), other = next.querySelector(".original");
    for (const a of other.attributes) if (picture.getAttribute(a.name) !== a.value) picture.setAttribute(a.name, a.value);
    now.replaceChildren(picture, ...[...next.children].filter(c => c !== other));
    Object.assign(now.dataset, next.dataset);
  } else {
    svg.append(document.importNode(next, true));
  }
  const says = document.getElementById("tracing");
  says.textContent = next.dataset.found;
  says.classList.add("is-said");
}

/** The files that were dropped, those in folders too, each with its path; what starts with a dot is left where it is. */
async function droppedFiles(data) {
  const found = [];
  const read = async (entry, path) => {
    if (entry.name.startsWith(".")) return;
    if (entry.isFile) {
      found.push({ file: await new Promise((done, failed) => entry.file(done, failed)), path: path + entry.name });
      return;
    }
    const reader = entry.createReader();
    for (;;) {
      const some = await new Promise((done, failed) => reader.readEntries(done, failed));
      if (!some.length) return;
      for (const inner of some) await read(inner, `${path}${entry.name}/`);
    }
  };
  const entries = [...data.items].map(item => item.webkitGetAsEntry?.()).filter(Boolean);
  if (!entries.length) return [...data.files].map(file => ({ file, path: file.name }));
  for (const entry of entries) await read(entry, "");
  return found;
}

function replacePage(html) {
  document.open();
  document.write(html);
  document.close();
}

function lightLook(look) {
  document.querySelectorAll(".table-svg .lit").forEach(e => e.classList.remove("lit"));
  if (look !== undefined) document.querySelectorAll(`.table-svg [data-look="${CSS.escape(look)}"]`).forEach(e => e.classList.add("lit"));
}

function light(ply) {
  document.querySelectorAll(".table-svg .ply").forEach(g => g.classList.toggle("dim", ply !== undefined && g.dataset.ply !== ply));
}

// A file, a picture, or the text of an SVG that is pasted goes the same way as one that is dropped.
document.addEventListener("paste", event => {
  const form = document.querySelector("form.drop");
  if (!form || event.target.closest("input, textarea")) return;
  const files = new DataTransfer();
  for (const file of event.clipboardData.files) files.items.add(file);
  const text = event.clipboardData.getData("text/plain").trim();
  if (files.items.length === 0 && /^<(\?xml|svg|!)/i.test(text) && text.includes("<svg")) files.items.add(new File([text], "pasted.svg", { type: "image/svg+xml" }));
  if (files.items.length === 0) return;
  event.preventDefault();
  const chooser = form.querySelector("input[type=file]");
  chooser.files = files.files;
  chooser.dispatchEvent(new Event("change", { bubbles: true }));
});

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
  if (event.key === "Delete") press("delete");
  if (/^[1-7]$/.test(event.key)) press(event.key);
  else if (event.key === "f" || event.key === "F") dispatchEvent(new CustomEvent("falz-fit"));
  else if (event.key === "x" || event.key === "X") press(document.querySelector("[data-key=apart]:not([aria-current])") ? "apart" : "together");
  else if (event.key === "m" || event.key === "M") press("measure");
  else if (event.key === "/") {
    event.preventDefault();
    document.getElementById("find")?.showPopover();
  } else if (event.key === "?") press("help");
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
  if (xhr.responseText.startsWith("<!")) replacePage(xhr.responseText);
});
document.addEventListener("htmx:sendError", () => {
  const line = document.querySelector(".finding-text");
  if (line) line.textContent = "The application does not answer. Nothing was changed; try again in a moment.";
});

// Alpine comes last, when its parts are known.
const alpine = document.createElement("script");
alpine.src = new URL("../lib/alpine.min.js", import.meta.url).href;
document.head.append(alpine);
