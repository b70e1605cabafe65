/** The thing of an id on the table; null where it is not there. */
export const thing = (svg, id) => svg.querySelector(`[data-id="${CSS.escape(id)}"]`);

/** An SVG element with attributes and, where it is a text, its text. */
export function svgElement(name, attributes, text) {
  const e = document.createElementNS("http://www.w3.org/2000/svg", name);
  for (const [key, value] of Object.entries(attributes)) e.setAttribute(key, value);
  if (text !== undefined) e.textContent = text;
  return e;
}
