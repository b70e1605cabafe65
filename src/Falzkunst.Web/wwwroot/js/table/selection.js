// What is chosen: known here, marked on the table, kept in the address. Only its card is fetched.
import { keeping, openGroups } from "../card.js";
import { thing } from "./svg.js";

const table = () => document.querySelector(".table-svg");

const none = { pieces: [], lines: [], rings: [], look: "" };
let chosen = none;
let asked = null;

export const selection = {
  /** The ids that an arrow key or a drag moves: pieces, loose lines and words, or the pieces of a look. */
  get movable() {
    if (chosen.look) return [...table()?.querySelectorAll(".piece.chosen") ?? []].map(g => g.dataset.id);
    if (chosen.lines.length + chosen.rings.length === 0) return chosen.pieces;
    const free = id => table()?.querySelector(`:is(.is-loose, .is-words, .is-print)[data-id="${CSS.escape(id)}"]`);
    return chosen.rings.length === 0 && chosen.lines.every(free) ? [...chosen.pieces, ...chosen.lines] : [];
  },

  /** Takes over what the address says, for a table that was just put up. */
  read() {
    selection.take(location.search, true);
  },

  /** Takes over what a query says; its card is there already. */
  take(search, isAddress = false) {
    const query = new URLSearchParams(search);
    const pieces = (query.get("pieces") ?? query.get("piece") ?? "").split(",").filter(Boolean);
    const list = key => (query.get(key) ?? "").split(",").filter(Boolean);
    chosen = { pieces, lines: list("line"), rings: list("ring"), look: query.get("look") ?? "" };
    mark();
    if (!isAddress) remember();
  },

  /** Chooses: `{ pieces: [ids] }`, `{ lines: [ids] }`, `{ rings: [ids] }`, `{ look }`, several of these, or nothing. */
  choose(next = {}) {
    chosen = { ...none, ...next };
    mark();
    remember();
    selection.card = fetchCard();
  },

  /** The card that was asked for last; done when it is there. */
  card: Promise.resolve(),

  add: ids => selection.choose({ pieces: [...new Set([...selection.movable, ...ids])] }),

  toggle(id, kind = "pieces") {
    const now = { ...chosen, pieces: chosen.look ? selection.movable : chosen.pieces, look: "" };
    selection.choose({ ...now, [kind]: now[kind].includes(id) ? now[kind].filter(p => p !== id) : [...now[kind], id] });
  },

  /** After a change: what is gone is not chosen any more. */
  settle() {
    const svg = table();
    if (!svg) return;
    const there = id => thing(svg, id);
    chosen = { ...chosen, pieces: chosen.pieces.filter(there), lines: chosen.lines.filter(there), rings: chosen.rings.filter(there) };
    mark();
    remember();
  },
};

/** The query of an address with what is chosen in it, and nothing else of the kind. */
export function withChosen(search) {
  const query = new URLSearchParams(search);
  for (const key of ["piece", "pieces", "line", "ring", "look", "finding"]) query.delete(key);
  if (chosen.pieces.length === 1) query.set("piece", chosen.pieces[0]);
  else if (chosen.pieces.length) query.set("pieces", chosen.pieces.join(","));
  if (chosen.lines.length) query.set("line", chosen.lines.join(","));
  if (chosen.rings.length) query.set("ring", chosen.rings.join(","));
  if (chosen.look) query.set("look", chosen.look);
  const text = query.toString().replaceAll("%2C", ",").replaceAll("%2F", "/");
  return text ? `?${text}` : "";
}

function mark() {
  const svg = table();
  if (!svg) return;
  const number = chosen.look ? [...document.querySelectorAll(".look")].find(row => keyOf(row) === chosen.look)?.dataset.look : undefined;
  const now = new Set(number === undefined ? [] : svg.querySelectorAll(`[data-look="${number}"]`));
  for (const id of [...chosen.pieces, ...chosen.lines, ...chosen.rings]) {
    const element = thing(svg, id);
    if (element) now.add(element);
  }
  for (const e of svg.querySelectorAll(".chosen")) if (!now.has(e)) e.classList.remove("chosen");
  for (const e of now) e.classList.add("chosen");
  document.dispatchEvent(new CustomEvent("chosen"));
}

const keyOf = row => new URLSearchParams(row.querySelector(".look-name").search).get("look");

function remember() {
  const search = withChosen(location.search);
  if (search !== location.search) history.replaceState(history.state, "", location.pathname + search);
}

async function fetchCard() {
  asked?.abort();
  asked = new AbortController();
  const { signal } = asked;
  document.getElementById("card").setAttribute("aria-busy", "true");
  try {
    const answer = await fetch(location.pathname + location.search, { headers: { "X-Part": "card", "X-Open": openGroups() }, signal });
    if (answer.redirected || !answer.ok) return location.reload();
    const card = await answer.text();
    if (!signal.aborted) keeping(() => window.htmx.swap("#card", card, { swapStyle: "innerHTML", swapDelay: 0, settleDelay: 0 }));
  } catch (e) {
    if (e.name !== "AbortError") document.dispatchEvent(new CustomEvent("htmx:sendError"));
  } finally {
    // Whoever asked later is still waiting.
    if (!signal.aborted) document.getElementById("card").removeAttribute("aria-busy");
  }
}
