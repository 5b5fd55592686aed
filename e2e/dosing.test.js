// Dissolved species from a blank sheet, in time, and a block of parallel legs that is changed.

import assert from 'node:assert/strict';
import { after, before, test } from 'node:test';
import { drawn, edited, ended, put, redrawn, stage } from './browser.js';

const at = stage({ after, before });

/** Chooses an entry of one of the menus of the brief. */
async function add(page, menu, entry) {
  await page.getByText(menu, { exact: true }).click();
  await edited(page, () => page.locator('details[open] .menu-sheet').getByRole('button', { name: entry, exact: true }).click());
}

/** Runs the model, and waits until a reading of it has another value. */
async function again(page, reading) {
  const text = () => page.locator(`[data-sentence="${reading}"] .amount`).innerText();
  const before = await text();
  await page.getByRole('button', { name: /^Run/ }).click();
  await page.waitForFunction(([r, was]) => document.querySelector('.slip.ended') && document.querySelector(`[data-sentence="${r}"] .amount`)?.innerText !== was, [reading, before], { timeout: 300000 });
}

/** The value of a reading that is shown. */
async function amount(page, reading) {
  const text = await page.locator(`[data-sentence="${reading}"] .amount`).innerText();
  const [digits, power] = text.replaceAll('−', '-').replace(/\s/g, '').split('·10');
  const exponent = [...(power ?? '⁰')].map((c) => '⁰¹²³⁴⁵⁶⁷⁸⁹'.indexOf(c)).map((d) => (d < 0 ? '-' : d)).join('').match(/^-?\d+/)[0];
  return parseFloat(digits) * 10 ** Number(exponent);
}

test('blank sheet: two streams in a channel, what one carries spreads into the other', async () => {
  const { page, server, faults } = at;
  await page.goto(server.url);
  await page.getByPlaceholder('name of the device').fill('Doser');
  await page.getByRole('button', { name: 'Begin' }).click();
  await drawn(page);
  await edited(page, () => page.locator('[data-place="space/kind"]').first().selectOption('plane'));
  await drawn(page);
  await add(page, '+ part', 'rectangle');
  await put(page, 'parts/p1/name', 'channel');
  await put(page, 'parts/p1/material', 'water');
  await put(page, 'parts/p1/outline/width', '4 mm');
  await put(page, 'parts/p1/outline/depth', '0.4 mm');
  await put(page, 'mesh/size', '0.1 mm');
  await put(page, 'mesh/order', '2');
  await put(page, 'physics/heat', 'false');
  await add(page, '+ condition', 'a fluid flows');
  await put(page, 'conditions/c1/on', 'p1');
  await add(page, '+ condition', 'comes in as from a long channel');
  await put(page, 'conditions/c2/on', 'p1|left');
  await put(page, 'conditions/c2/values/speed', '1 mm/s');
  await add(page, '+ condition', 'leaves against a pressure');
  await put(page, 'conditions/c3/on', 'p1|right');
  await add(page, '+ condition', 'something is dissolved');
  await put(page, 'conditions/c4/on', 'p1');
  await put(page, 'conditions/c4/values/species', 'iodide');
  await put(page, 'conditions/c4/values/diffusivity', '2e-8 m²/s');
  await add(page, '+ condition', 'concentration at a surface, or of what comes in');
  await put(page, 'conditions/c5/on', 'p1|left');
  await put(page, 'conditions/c5/values/species', 'iodine');
  assert.match(await page.locator('[data-place="conditions/c5/values/species"]').getAttribute('title'), /there is no dissolved species "iodine"/);
  await put(page, 'conditions/c5/values/species', 'iodide');
  await put(page, 'conditions/c5/values/concentration', '5 mol/m³*(1 + erf(y/0.08 mm))');
  await add(page, '+ reading', 'concentration of what flows through, mixed');
  await put(page, 'readings/r1/on', 'p1|right');
  await put(page, 'readings/r1/values/species', 'iodide');
  await add(page, '+ reading', 'how unevenly it is mixed');
  await put(page, 'readings/r2/on', 'p1|right');
  await put(page, 'readings/r2/values/species', 'iodide');
  await page.getByRole('button', { name: /^Run/ }).click();
  await ended(page);
  assert.ok(Math.abs(await amount(page, 'r1') - 5) < 0.01, 'what comes in leaves');
  const uneven = await amount(page, 'r2');
  // Twice as fast it has half the time to spread.
  await put(page, 'conditions/c2/values/speed', '2 mm/s');
  await again(page, 'r2');
  const faster = await amount(page, 'r2');
  assert.ok(faster > 1.2 * uneven, `${faster} after ${uneven}`);
  // It vanishes as it goes.
  await add(page, '+ condition', 'arises or vanishes in a part');
  await put(page, 'conditions/c6/on', 'p1');
  await put(page, 'conditions/c6/values/species', 'iodide');
  await put(page, 'conditions/c6/values/rate', '-0.5/s*iodide');
  await again(page, 'r1');
  const left = await amount(page, 'r1');
  assert.ok(left > 1 && left < 3.5, `${left} mol/m³ are left`);
  await page.keyboard.press('2');
  await page.waitForURL(/plates/);
  await page.getByRole('link', { name: /Concentration of iodide/ }).click();
  await drawn(page);
  assert.match(await page.locator('#bar').textContent(), /c, mol\/m³/);
  await redrawn(page, () => page.getByRole('link', { name: /Velocity/ }).click());
  assert.deepEqual(faults, []);
});

test('the brine block: what its legs share, and what a wider header changes', async () => {
  const { page, server, faults } = at;
  await page.goto(server.url);
  await page.getByRole('link', { name: 'open Brine block' }).click();
  await drawn(page);
  // Coarser, for a look.
  await put(page, 'mesh/across', '2');
  await put(page, 'mesh/size', '4 mm');
  await page.getByRole('button', { name: /^Run/ }).click();
  await ended(page);
  const shares = async () => {
    const list = [];
    for (const r of ['r3', 'r4', 'r5', 'r6']) list.push(await amount(page, r));
    return list;
  };
  const before = await shares();
  assert.ok(Math.abs(before.reduce((a, b) => a + b) - 0.12) < 2e-4, `the legs share ${before}`);
  const spread = await amount(page, 'r7');
  await put(page, 'parameters/header/value', '7 mm');
  await again(page, 'r3');
  const after = await shares();
  assert.ok(Math.abs(after.reduce((a, b) => a + b) - 0.12) < 2e-4, `the legs share ${after}`);
  assert.ok(await amount(page, 'r7') < spread, 'a wider header shares more evenly');
  assert.deepEqual(faults, []);
});
