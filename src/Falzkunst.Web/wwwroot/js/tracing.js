// While a slider moves, the table shows what tracing would make of the picture; when it is let go, the form is sent.
export const tracing = () => ({
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
});

// On the picture: a click takes a place away, a dragged rectangle crops. Both only fill in the form's fields.
export const pictureTools = () => ({
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
    return { x: px((p.x - left) / mm, +width), y: px((p.y - top) / mm, +height), inside: p.x >= left && p.y >= top && (p.x - left) / mm < width
      && (p.y - top) / mm < height };
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
      this.says = this.crop ? "Drag over what is to be traced."
        : "Click a place of the picture to take it away; what looks like it and is joined to it goes too.";
    },
  },
  box: {
    ["@pointerdown.stop"]() {},
  },
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
