const ways = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

/** How far an arrow key moves something, in mm: by half a millimetre, with Shift by five, with Alt by a twentieth; null for other keys. */
export function arrowStep({ key, altKey, shiftKey }) {
  const step = altKey ? 0.05 : shiftKey ? 5 : 0.5;
  return ways[key] ? { x: ways[key][0] * step, y: ways[key][1] * step } : null;
}
