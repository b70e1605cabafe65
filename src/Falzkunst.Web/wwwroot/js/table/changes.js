// Puts what an answer says has changed onto the table that is there. Nothing else of it is touched, and the view stays.
import { svgElement } from "./svg.js";

/** @param {SVGSVGElement} svg the table @param {SVGSVGElement} changes as the server wrote them */
export function applyChanges(svg, changes) {
  const fresh = new Map([...changes.children].filter(e => e.matches(".piece")).map(g => [g.dataset.id, g]));
  const plies = svg.querySelector(".all-plies");
  if (changes.dataset.order !== undefined) putInOrder(plies, changes.dataset.order, fresh);
  else for (const [id, piece] of fresh) plies.querySelector(`.piece[data-id="${CSS.escape(id)}"]`)?.replaceWith(piece);
  for (const part of ["loose", "places"]) {
    const next = [...changes.children].find(e => e.matches(`.${part}`));
    if (next) svg.querySelector(`:scope > .${part}`).replaceWith(next);
  }
  svg.dataset.home = changes.dataset.home;
}

/** The plies and their pieces as "y1@translate(…):p1 p2;y2@:p3", from bottom to top. */
function putInOrder(plies, order, fresh) {
  const pieces = new Map([...plies.querySelectorAll(".piece")].map(g => [g.dataset.id, g]));
  const byId = new Map([...plies.children].map(g => [g.dataset.ply, g]));
  const wanted = order.split(";").filter(Boolean).map(text => {
    const [id, move] = text.slice(0, text.indexOf(":")).split("@");
    const ply = byId.get(id) ?? svgElement("g", { class: "ply", "data-ply": id });
    if (move) ply.setAttribute("transform", move);
    else ply.removeAttribute("transform");
    const its = text.slice(text.indexOf(":") + 1).split(" ").filter(Boolean).map(p => fresh.get(p) ?? pieces.get(p));
    return [ply, its];
  });
  arrange(plies, wanted.map(([ply]) => ply));
  for (const [ply, its] of wanted) arrange(ply, its);
}

/** Makes these the children, in this order; those that stand right already are left alone. */
function arrange(parent, children) {
  let at = parent.firstElementChild;
  for (const child of children) {
    if (child === at) at = at.nextElementSibling;
    else parent.insertBefore(child, at);
  }
  while (at) {
    const gone = at;
    at = at.nextElementSibling;
    gone.remove();
  }
}
