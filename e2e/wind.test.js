// A shade panel in the wind and air of three blowers shared between racks: what is said of them, and how their runs begin. That they
// settle is seen at night.

import assert from 'node:assert/strict';
import { after, before, test } from 'node:test';
import { base, drawn, edited, open, put as browserPut, stage } from './browser.js';

const at = stage({ after, before });
const put = (place, value) => browserPut(at.page, place, value);

/** Runs the model until its equations are being solved, and stops it. */
async function begin() {
  const { page } = at;
  await page.getByRole('button', { name: /^Run/ }).click();
  await page.waitForFunction(() => /\d cells, .* unknowns/.test(document.getElementById('run').innerText), null, { timeout: 300000 });
  const said = await page.locator('#run').innerText();
  await page.locator('#run').getByRole('button', { name: 'stop' }).click();
  await page.waitForFunction(() => /stopped/.test(document.getElementById('run').innerText), null, { timeout: 240000 });
  return said;
}

test('wind over a shade panel: what is wrong is said, the angle of the stream is a formula, a part is left out', async () => {
  const { page, faults } = at;
  await open(at, 'Yard shade');
  const sheet = () => page.locator('main').innerText();
  assert.match(await sheet(), /What fills part 1 flows/);
  assert.match(await sheet(), /The flow is turbulent/);
  // Cells of order 2 are none for it.
  await put('mesh/order', '2');
  assert.match(await page.locator('#titleblock').innerText(), /1 wrong/);
  await page.locator('#titleblock summary').click();
  assert.match(await page.locator('#titleblock').innerText(), /turbulent flow needs functions of order 1/);
  await put('mesh/order', '');
  // Turbulent by two models at once; by the other one alone it is right.
  await page.locator('#canvas').focus();
  await page.keyboard.press('/');
  await page.keyboard.type('add condition turbulent by the energy');
  await edited(page, () => page.keyboard.press('Enter'));
  assert.match(await page.locator('#titleblock').innerText(), /said to be turbulent in two ways/);
  const first = page.locator('[data-sentence]', { hasText: 'The flow is turbulent' }).first();
  await first.hover();
  await edited(page, () => first.getByRole('button', { name: 'leave out' }).click());
  assert.doesNotMatch(await page.locator('#titleblock').innerText(), /1 wrong/);
  // A stream from below, and a value in another unit than a speed.
  await put('conditions/c3/values/y', 'wind*sin(5 deg)');
  await put('conditions/c3/values/x', '3 m');
  assert.match(await page.locator('#titleblock').innerText(), /1 wrong/);
  await put('conditions/c3/values/x', 'wind*cos(5 deg)');
  await put('parts/skirt/role', 'off');
  assert.match(await begin(), /cells|nodes/);
  // The next one goes on from it.
  await put('run/from', '1');
  assert.doesNotMatch(await page.locator('#titleblock').innerText(), /1 wrong/);
  assert.match(await begin(), /cells|nodes/);
  await page.goto(`${base(at.page)}trials`);
  await drawn(page);
  assert.match(await page.locator('#trials-brief').innerText(), /9 trials/);
  assert.deepEqual(faults, []);
});

test('air of three blowers for five racks: without the sentence of turbulence it is asked for', async () => {
  const { page, faults } = at;
  await open(at, 'Rack manifold');
  await page.locator('[data-sentence="c2"]').hover(); // its buttons are shown then
  await edited(page, () => page.locator('[data-sentence="c2"] button', { hasText: 'leave out' }).click());
  await page.locator('#titleblock summary').click();
  assert.match(await page.locator('#titleblock').innerText(), /say that the flow is turbulent/);
  await page.locator('[data-sentence="c2"]').hover();
  await edited(page, () => page.locator('[data-sentence="c2"] button', { hasText: 'take in' }).click());
  await put('parameters/blower_1/value', '0 m³/h'); // one stands still
  assert.match(await begin(), /cells|nodes/);
  await page.goto(`${base(at.page)}trials`);
  await drawn(page);
  assert.equal(await page.locator('[data-place="trials/t1/runs"]').inputValue(), '20');
  assert.equal(await page.locator('.trials-table tbody tr').count(), 20);
  assert.deepEqual(faults, []);
});
