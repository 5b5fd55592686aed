// The scales for fields, even in lightness and safe for colour-blind eyes: their lightness alone
// tells which of two values is greater. They are ways through OKLab (B. Ottosson, 2020).

const turn = (lightness, chroma, hue) => [lightness, chroma * Math.cos(hue * Math.PI / 180), chroma * Math.sin(hue * Math.PI / 180)];

// Dark blue, teal, sand, light copper.
const RISING = [turn(0.26, 0.085, 280), turn(0.42, 0.085, 232), turn(0.57, 0.085, 190), turn(0.72, 0.09, 95), turn(0.88, 0.09, 60)];
// Blue below, paper in the middle, copper above; both ends are as dark.
const ABOUT = [turn(0.34, 0.085, 250), turn(0.65, 0.085, 220), turn(0.96, 0.01, 90), turn(0.65, 0.13, 50), turn(0.34, 0.11, 35)];
// Round: dark, teal, light, copper and dark again.
const ROUND = [turn(0.3, 0.04, 310), turn(0.6, 0.1, 200), turn(0.9, 0.03, 100), turn(0.6, 0.13, 50), turn(0.3, 0.04, 310)];

export const MAPS = { '': RISING, 'about zero': ABOUT, round: ROUND };

/** The place in OKLab of a scale at t from 0 to 1. */
export function labAt(t, map = RISING) {
  const x = Math.min(Math.max(t, 0), 1) * (map.length - 1);
  const i = Math.min(Math.floor(x), map.length - 2);
  return map[i].map((c, k) => c + (map[i + 1][k] - c) * (x - i));
}

/** Red, green and blue from 0 to 1 of a place in OKLab. */
export function rgb([lightness, a, b]) {
  const [l, m, s] = [lightness + 0.3963377774 * a + 0.2158037573 * b, lightness - 0.1055613458 * a - 0.0638541728 * b, lightness - 0.0894841775 * a - 1.291485548 * b].map((x) => x ** 3);
  return [4.0767416621 * l - 3.3077115913 * m + 0.2309699292 * s, -1.2684380046 * l + 2.6097574011 * m - 0.3413193965 * s, -0.0041960863 * l - 0.7034186147 * m + 1.707614701 * s]
    .map((x) => Math.min(Math.max(x <= 0.0031308 ? 12.92 * x : 1.055 * x ** (1 / 2.4) - 0.055, 0), 1));
}

/** The colour for t from 0 to 1, for CSS and SVG. */
export function colourAt(t, map = RISING) {
  return `rgb(${rgb(labAt(t, map)).map((c) => Math.round(255 * c)).join(',')})`;
}

/** The scale as n pixels, red, green, blue and opaque; with bands each is of one colour. */
export function ramp(n, map = RISING, bands = 0) {
  const out = new Uint8Array(4 * n);
  for (let i = 0; i < n; i++) {
    let t = (i + 0.5) / n;
    if (bands) t = bandAt(t, bands);
    out.set([...rgb(labAt(t, map)).map((c) => Math.round(255 * c)), 255], 4 * i);
  }
  return out;
}

/** The middle of the band of t; the first and the last band have the ends of the scale. */
export function bandAt(t, bands) {
  const k = Math.min(Math.floor(t * bands), bands - 1);
  return bands > 1 ? k / (bands - 1) : 0.5;
}
