// Files that are dropped or chosen are sent at once, and it is seen how far that is; a folder that is dropped goes with all that is in it.
export const drop = () => ({
  state: "",
  said: "",
  part: 0,
  brought: null,
  init() {
    const form = this.$root;
    // The files are not in its field: a field forgets the folders that they came in.
    form.noValidate = true;
    const over = said => Object.assign(this, { brought: null, state: "", said });
    form.addEventListener("htmx:configRequest", ({ detail }) => {
      if (!this.brought) return;
      detail.headers["X-Sends-Itself"] = "1";
      detail.formData.delete("file");
      for (const { file, path } of this.brought) detail.formData.append("file", file, path);
    });
    form.addEventListener("htmx:xhr:progress", ({ detail }) => {
      if (!this.brought || !detail.total) return;
      this.part = detail.loaded / detail.total;
      this.state = detail.loaded < detail.total ? `Sending ${this.name()}: ${(detail.loaded / 1e6).toFixed(1)} of ${(detail.total / 1e6).toFixed(1)} MB`
        : `Reading ${this.name()} …`;
    });
    form.addEventListener("htmx:sendError", () => over("The application does not answer. Nothing was brought in; try again in a moment."));
    form.addEventListener("htmx:sendAbort", () => over("Stopped. Nothing was brought in."));
  },
  name() {
    return this.brought.length > 1 ? `${this.brought.length} files` : this.brought[0].file.name;
  },
  /** @param {{file: File, path: string}[]} brought */
  send(brought) {
    if (!brought.length || this.brought) return;
    const form = this.$root, most = Number(form.dataset.most);
    const large = brought.find(b => b.file.size > most);
    if (large) {
      this.said = `“${large.file.name}” is larger than ${Math.round(most / 1e6)} MB. Nothing was brought in; take it apart, or save the pictures in it `
        + `smaller.`;
      return;
    }
    // As it is: what watches over the state of a view can't hold files.
    this.brought = Object.freeze(brought.map(Object.freeze));
    Object.assign(this, { said: "", part: 0, state: `Sending ${this.name()} …` });
    window.htmx.ajax("POST", form.action, { source: form }).catch(() => {});
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
      return !this.brought;
    },
  },
  bar: {
    [":value"]() {
      return this.part;
    },
  },
  stop: {
    ["@click"]() {
      window.htmx.trigger(this.$root, "htmx:abort");
    },
  },
});

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

// A file, a picture, or the text of an SVG that is pasted goes the same way as one that is dropped.
document.addEventListener("paste", event => {
  const form = document.querySelector("form.drop");
  if (!form || event.target.closest("input, textarea")) return;
  const files = new DataTransfer();
  for (const file of event.clipboardData.files) files.items.add(file);
  const text = event.clipboardData.getData("text/plain").trim();
  if (files.items.length === 0 && /^<(\?xml|svg|!)/i.test(text)
    && text.includes("<svg")) files.items.add(new File([text], "pasted.svg", { type: "image/svg+xml" }));
  if (files.items.length === 0) return;
  event.preventDefault();
  const chooser = form.querySelector("input[type=file]");
  chooser.files = files.files;
  chooser.dispatchEvent(new Event("change", { bubbles: true }));
});
