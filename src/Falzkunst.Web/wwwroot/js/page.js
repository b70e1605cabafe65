// A docket's page and its server: what is asked carries what is chosen, and what is answered is put where it belongs.
import { selection, withChosen } from "./table/selection.js";
import { look, openGroups, restore } from "./card.js";
import { onTable } from "./table/table.js";

const docket = () => document.getElementById("docket");
let before = null;

document.addEventListener("htmx:configRequest", ({ detail }) => {
  const address = new URL(detail.path, location.href);
  if (!docket()?.contains(detail.elt) || address.pathname !== location.pathname) return;
  // The forms of the page may be older than what was chosen, or changed, since.
  if (!detail.elt.matches("[data-anew]") && (detail.verb === "post" || address.searchParams.has("finding")
    || address.searchParams.get("handler") === "Group")) {
    const merged = new URLSearchParams(withChosen(address.search));
    if (address.searchParams.has("finding")) merged.set("finding", address.searchParams.get("finding"));
    detail.headers["X-Open"] = openGroups();
    detail.path = `${address.pathname}?${merged}`;
  }
  if (detail.verb !== "post") return;
  if (detail.parameters.basedOn !== undefined) detail.parameters.basedOn = docket().dataset.revision;
  if (onTable()?.canChoose) detail.headers["X-Part"] = "changes";
});

// A click while an answer is under way waits for it. Where the answer puts another page in place of the one that was clicked, the click goes on
// there: to where the link leads, or by the same form of the new page with what was typed in it. The same form pressed twice is a double click.
const underWay = new Map();
let waiting = [];
document.addEventListener("htmx:beforeRequest", ({ detail }) => {
  // What is sent waits no longer; and only links and forms make others wait, not what the page looks up by itself.
  waiting = waiting.filter(w => w.elt !== detail.elt);
  if (detail.elt.matches("a[href], form") && docket()?.contains(detail.elt)) underWay.set(detail.xhr, detail.elt);
});
document.addEventListener("htmx:confirm", ({ detail: { elt, triggeringEvent } }) => {
  if (underWay.size === 0 || !elt.matches("a[href], form") || [...underWay.values(), ...waiting.map(w => w.elt)].includes(elt)) return;
  waiting.push({ elt, button: triggeringEvent?.submitter });
});
document.addEventListener("htmx:afterRequest", ({ detail }) => {
  underWay.delete(detail.xhr);
  // What is still there htmx has in its own queue.
  waiting = waiting.filter(w => !w.elt.isConnected);
  const next = waiting.findLast(w => w.elt.matches("a")) ?? waiting.shift();
  if (!next) return;
  if (next.elt.matches("a")) location.assign(next.elt.href);
  else submitAnew(next.elt, next.button);
});

/** Sends a form that is no longer on the page by the one that has taken its place: of the same handler, about the same things. */
function submitAnew(gone, button) {
  const handler = form => new URL(form.getAttribute("action") ?? "", location.href).searchParams.get("handler");
  const anew = ["__RequestVerificationToken", "basedOn", "asked"];
  const about = form => JSON.stringify([...form.elements].filter(f => f.type === "hidden" && !anew.includes(f.name)).map(f => [f.name, f.value]));
  const form = [...docket()?.querySelectorAll("form") ?? []].find(f => handler(f) === handler(gone) && about(f) === about(gone));
  if (!form) return;
  for (const field of gone.elements) {
    const there = field.name && form.elements.namedItem(field.name);
    if (!there || there.type !== field.type) continue;
    if (field.checked !== field.defaultChecked) there.checked = field.checked;
    else if (field.value !== field.defaultValue && field.type !== "hidden" && field.type !== "file") there.value = field.value;
  }
  form.requestSubmit(button && [...form.elements].find(b => b.type === "submit" && b.name === button.name && b.value === button.value));
}

document.addEventListener("htmx:beforeSwap", () => {
  before = look();
});
document.addEventListener("htmx:afterRequest", ({ detail }) => {
  const changes = document.querySelector("#changes[data-revision]");
  if (changes && docket()) {
    docket().dataset.revision = changes.dataset.revision;
    onTable()?.change(changes);
    changes.replaceChildren();
    changes.removeAttribute("data-revision");
    const fresh = detail.xhr?.getResponseHeader("X-Chosen");
    if (fresh) {
      selection.take(fresh);
      onTable()?.seek();
    }
  }
  if (before) restore(before);
  before = null;
});

// A link that only chooses something does so without asking for a page.
document.addEventListener("click", event => {
  const link = event.target.closest("a[data-choose]");
  if (!link || !onTable()?.canChoose || event.ctrlKey || event.metaKey) return;
  event.preventDefault();
  event.stopPropagation();
  const what = link.dataset.choose, id = new URL(link.href, location.href).searchParams.get(what) ?? "";
  if (what === "look") selection.choose({ look: id });
  else if (what === "line" || what === "ring") selection.choose({ [`${what}s`]: id.split(",") });
  else if (event.shiftKey && id) selection.add(id.split(","));
  else selection.choose({ pieces: id ? id.split(",") : [] });
}, true);

// The place of a finding is on this table: go there without asking the server.
document.addEventListener("click", event => {
  const show = event.target.closest("[data-show]");
  if (!show || !onTable()) return;
  event.preventDefault();
  event.stopPropagation();
  const [x, y] = show.dataset.show.split(" ").map(Number);
  onTable().centre(x, y);
}, true);

// The body of a group that is open, however it came to be, is fetched where it is not there yet.
const fetchOpen = () => {
  for (const later of document.querySelectorAll("#card details[open] > .later")) window.htmx.trigger(later, "later");
};
document.addEventListener("toggle", fetchOpen, true);
document.addEventListener("htmx:afterSettle", fetchOpen);

// One group of the card is open at a time. (The browser's own exclusive groups would shut a group while it is being swapped.)
document.addEventListener("toggle", event => {
  if (!event.target.matches?.("details.group[open]")) return;
  for (const other of event.target.parentElement.querySelectorAll(":scope > details.group[open]")) if (other !== event.target) other.open = false;
}, true);

function replacePage(html) {
  document.open();
  document.write(html);
  document.close();
}

// What failed on the way to the server is said, instead of doing nothing. What the page looks up by itself is no answer to anybody:
// it stays away.
document.addEventListener("htmx:responseError", event => {
  const { xhr, elt } = event.detail, asksByItself = /^(load|revealed)/.test(elt.getAttribute("hx-trigger") ?? "");
  if (!asksByItself && xhr.responseText.startsWith("<!")) replacePage(xhr.responseText);
});
document.addEventListener("htmx:sendError", () => {
  onTable()?.nudges.forget();
  const line = document.querySelector(".finding-text");
  if (line) line.textContent = "The application does not answer. Nothing was changed; try again in a moment.";
});

// What is to be copied is chosen as a whole.
document.addEventListener("focusin", event => {
  if (event.target.matches?.("[data-choose-all]")) event.target.select();
});
