// The scale for fields: dark blue, teal, sand, copper, even in lightness.

const STOPS = [[0.106, 0.141, 0.29], [0.118, 0.286, 0.404], [0.2, 0.463, 0.478], [0.455, 0.624, 0.49], [0.78, 0.702, 0.471], [0.914, 0.62, 0.396], [0.761, 0.271, 0.169]];

function at(t) {
  const x = Math.min(Math.max(t, 0), 1) * (STOPS.length - 1);
  const i = Math.min(Math.floor(x), STOPS.length - 2);
  return STOPS[i].map((c, k) => c + (STOPS[i + 1][k] - c) * (x - i));
}

/** The colour for t from 0 to 1, for CSS and SVG. */
export function colourAt(t) {
  return `rgb(${at(t).map((c) => Math.round(255 * c)).join(',')})`;
}

/** The scale as n pixels, red, green, blue and opaque. */
export function ramp(n) {
  const out = new Uint8Array(4 * n);
  for (let i = 0; i < n; i++) out.set([...at((i + 0.5) / n).map((c) => Math.round(255 * c)), 255], 4 * i);
  return out;
}
