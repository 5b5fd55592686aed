// Sound: a thin plate under brine and under air, and a box that keeps back the sound of a blower.

import assert from 'node:assert/strict';
import { after, before, test } from 'node:test';
import { base, drawn, ended, open, put as browserPut, stage } from './browser.js';

const at = stage({ after, before });
const put = (place, value) => browserPut(at.page, place, value);

test('the sounder plate: brine is exchanged for air, and the tones of both stand beside each other', async () => {
  const { page, faults } = at;
  await open(at, 'Sounder plate');
  assert.match(await page.locator('main').innerText(), /Sound fills part 2/);
  await page.getByRole('button', { name: /^Run/ }).click();
  await ended(page, 1);
  await put('parts/tank/material', 'air');
  await page.getByRole('button', { name: /^Run/ }).click();
  await ended(page, 2);
  await page.goto(`${base(page)}plates`);
  await drawn(page);
  const rows = await page.locator('table.modes tbody tr').allInnerTexts();
  assert.equal(rows.length, 6);
  const heads = await page.locator('table.modes thead').innerText();
  assert.match(heads, /energy in sound pressure/i);
  assert.match(heads, /times as high/);
  // In air the lowest tone is far higher than under brine, of much the same shape.
  assert.match(rows.join('\n'), /^1\t21\d\d(\.\d+)?\sHz\t.*1: 11\d\d(\.\d+)?\sHz\t1\.8\d\t(9\d|100)$/m);
  assert.deepEqual(faults, []);
});

test('the exhaust box: what it keeps back over frequency, and a sentence that needs another run', async () => {
  const { page, faults } = at;
  await open(at, 'Exhaust box');
  await page.waitForFunction(() => document.querySelector('.slip.ended') || !document.querySelector('.slip'), null, { timeout: 300000 });
  await page.goto(`${base(page)}plates`);
  await drawn(page);
  const text = await page.locator('main').innerText();
  assert.match(text, /Amplitudes over frequency/i);
  assert.match(text, /The equations were solved at \d+ of 160 frequencies/);
  assert.match(text, /kept back from 80 to 400 Hz, mean, dB\s+12\.\d/);
  await page.goto(base(page));
  await drawn(page);
  await put('run/kind', 'steady');
  assert.match(await page.locator('#titleblock').innerText(), /wrong/);
  await put('run/kind', 'response');
  assert.match(await page.locator('#titleblock').innerText(), /Ready to run/);
  assert.deepEqual(faults, []);
});
