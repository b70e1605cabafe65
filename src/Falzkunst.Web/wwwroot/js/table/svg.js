/** An SVG element with attributes and, where it is a text, its text. */
export function svgElement(name, attributes, text) {
  const e = document.createElementNS("http://www.w3.org/2000/svg", name);
  for (const [key, value] of Object.entries(attributes)) e.setAttribute(key, value);
  if (text !== undefined) e.textContent = text;
  return e;
}
