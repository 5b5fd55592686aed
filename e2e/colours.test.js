// Colour scales: even in lightness, and what they say survives the loss of hue.

import { test } from 'node:test';
import assert from 'node:assert/strict';
import { MAPS, bandAt, colourAt, labAt, ramp, rgb } from '../app/web/static/js/colours.js';

const steps = Array.from({ length: 101 }, (_, i) => i / 100);

test('the rising scale becomes lighter by the same amount everywhere', () => {
  const lightness = steps.map((t) => labAt(t)[0]);
  for (let i = 1; i < lightness.length; i++) assert.ok(Math.abs(lightness[i] - lightness[i - 1] - 0.0062) < 0.0005, `at ${i}`);
});

test('the scale about zero is as dark at both ends, lightest in the middle', () => {
  const map = MAPS['about zero'];
  for (const t of steps.slice(0, 50)) {
    assert.ok(Math.abs(labAt(t, map)[0] - labAt(1 - t, map)[0]) < 1e-9);
    assert.ok(labAt(t + 0.01, map)[0] > labAt(t, map)[0]);
  }
});

test('the round scale ends where it begins, with four quarters that differ', () => {
  assert.equal(colourAt(0, MAPS.round), colourAt(1, MAPS.round));
  const quarters = [0, 0.25, 0.5, 0.75].map((t) => labAt(t, MAPS.round));
  for (let i = 0; i < 4; i++) for (let j = i + 1; j < 4; j++) assert.ok(Math.hypot(...quarters[i].map((x, k) => x - quarters[j][k])) > 0.15);
});

test('no colour is cut off at the edge of what a screen can show', () => {
  const back = ([r, g, b]) => { // the lightness of what the screen shows
    const [lr, lg, lb] = [r, g, b].map((x) => (x <= 0.04045 ? x / 12.92 : ((x + 0.055) / 1.055) ** 2.4));
    const l = Math.cbrt(0.4122214708 * lr + 0.5363325363 * lg + 0.0514459929 * lb);
    const m = Math.cbrt(0.2119034982 * lr + 0.6806995451 * lg + 0.1073969566 * lb);
    const s = Math.cbrt(0.0883024619 * lr + 0.2817188376 * lg + 0.6299787005 * lb);
    return 0.2104542553 * l + 0.793617785 * m - 0.0040720468 * s;
  };
  for (const map of Object.values(MAPS)) for (const t of steps) assert.ok(Math.abs(back(rgb(labAt(t, map))) - labAt(t, map)[0]) < 0.01, `${t}`);
});

test('bands are of one colour each, with the ends of the scale at the ends', () => {
  const pixels = ramp(100, MAPS[''], 5);
  const seen = new Set(Array.from({ length: 100 }, (_, i) => pixels.slice(4 * i, 4 * i + 4).join()));
  assert.equal(seen.size, 5);
  assert.equal(bandAt(0.01, 5), 0);
  assert.equal(bandAt(0.99, 5), 1);
});
