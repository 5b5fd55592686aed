// Numbers in words, as pages show them.

import { test } from 'node:test';
import assert from 'node:assert/strict';
import { figures, time, typed } from '../app/web/static/js/figures.js';

test('numbers have as many figures as are asked for, with a true minus and powers of ten', () => {
  for (const [x, digits, want] of [[0, 4, '0'], [123.456, 4, '123.5'], [-0.012345, 3, '−0.0123'], [1234567, 4, '1234567'], [12345678, 4, '1.235·10⁷'], [0.00012, 2, '1.2·10⁻⁴'], [-5e-9, 3, '−5·10⁻⁹'], [NaN, 4, '–'], [Infinity, 4, '–'], [99.996, 4, '100.00']]) {
    assert.equal(figures(x, digits), want);
  }
});

test('times have the unit that suits the end', () => {
  assert.equal(time(90, 120), '90.0 s');
  assert.equal(time(90, 600), '1.50 min');
  assert.equal(time(5400, 3 * 3600), '1.50 h');
  assert.equal(time(86400, 3 * 86400), '1.00 d');
});

test('what is typed can be typed again', () => {
  assert.equal(typed(-0.0123456), '-0.01235');
  assert.equal(typed(1e-7), '1e-7');
  assert.equal(typed(12, 3), '12');
});
