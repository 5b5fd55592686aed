// A pot magnet and its keeper: what is said of them, what is missing, and what a run finds; a coil under a kettle.

import assert from 'node:assert/strict';
import { after, before, test } from 'node:test';
import { base, drawn, edited, ended, open, put as browserPut, stage } from './browser.js';

const at = stage({ after, before });
const put = (place, value) => browserPut(at.page, place, value);
const outstanding = () => at.page.locator('#titleblock').innerText();

test('the lid latch: a magnet without a direction is missing one, its pull is read, lines of flux are drawn', async () => {
  const { page, faults } = at;
  await open(at, 'Lid latch');
  await page.waitForFunction(() => document.querySelector('.slip.ended') || !document.querySelector('.slip'), null, { timeout: 300000 });
  const sheet = await page.locator('main').innerText();
  assert.match(sheet, /A magnetic field fills parts 1–4/);
  assert.match(sheet, /goes on into open space/);
  assert.match(sheet, /Every other surface lets no flux through/);
  await put('conditions/c1/values/y', '');
  assert.match(await outstanding(), /1 missing/);
  await put('conditions/c1/values/y', '-1');
  assert.match(await outstanding(), /Nothing missing/);
  // Another half of a millimetre of gap: it pulls less, whichever way its north points.
  await put('parameters/gap/value', '1.5 mm');
  await page.getByRole('button', { name: /^Run/ }).click();
  await ended(page, 2);
  await page.goto(`${base(page)}plates`);
  await drawn(page);
  const runs = await page.locator('main').innerText();
  const pull = /pull on the lid, N\s+([\d.]+)/.exec(runs);
  assert.ok(pull, runs.slice(-3000));
  assert.ok(pull[1] > 50 && pull[1] < 57, pull[0]);
  await page.getByText('Lines of flux').first().click();
  await page.waitForFunction(() => /Ψ, µWb/.test(document.body.innerText));
  assert.deepEqual(faults, []);
});

test('a crate latch from a blank sheet: parts, a magnet, open space, its pull and how sure it is', async () => {
  const { page, faults, server } = at;
  const add = async (menu, entry) => {
    await page.getByText(menu, { exact: true }).click();
    await edited(page, () => page.locator('details[open] .menu-sheet').getByRole('button', { name: entry, exact: true }).click());
  };
  await page.goto(server.url);
  await page.getByPlaceholder('name of the device').fill('Crate latch');
  await page.getByRole('button', { name: 'Begin' }).click();
  await drawn(page);
  await put('space/kind', 'axial');
  await put('physics/heat', 'false');
  await add('+ part', 'box round the others');
  await put('parts/p1/outline/left', '0 mm');
  for (const side of ['right', 'front', 'back']) await put(`parts/p1/outline/${side}`, '20 mm');
  const rows = [['yoke', 'magnetic mild steel', '12 mm', '3 mm', '6 mm', '-1.5 mm'], ['magnet', 'magnet NdFeB N35', '9 mm', '5 mm', '4.5 mm', '2.5 mm'], ['keeper', 'magnetic mild steel', '12 mm', '3 mm', '6 mm', '7.5 mm']];
  for (const [i, [name, material, width, depth, x, y]] of rows.entries()) {
    const part = `parts/p${i + 2}`;
    await add('+ part', 'rectangle');
    for (const [key, value] of Object.entries({ name, material, 'outline/width': width, 'outline/depth': depth, 'place/x': x, 'place/y': y })) await put(`${part}/${key}`, value);
  }
  await put('mesh/size', '4 mm');
  await add('+ condition', 'magnet');
  await put('conditions/c1/on', 'p3');
  assert.match(await outstanding(), /missing/, 'which way its north points');
  await put('conditions/c1/values/y', '1');
  await add('+ condition', 'open space beyond');
  await put('conditions/c2/on', 'p1|right');
  await add('+ condition', 'open space beyond');
  await put('conditions/c3/on', 'p1|front');
  await add('+ condition', 'open space beyond');
  await put('conditions/c4/on', 'p1|back');
  await add('+ reading', 'magnetic force');
  await put('readings/r1/on', 'p4');
  assert.match(await outstanding(), /Nothing missing/);
  await page.getByRole('button', { name: /^Run/ }).click();
  await page.locator('.slip.ended .good').waitFor({ timeout: 240000 });
  const amount = page.locator('[data-sentence="r1"] .amount');
  await amount.waitFor();
  const pull = parseFloat((await amount.innerText()).replace('\u2212', '-'));
  assert.ok(pull < -36 && pull > -38, `${pull} N instead of -37.4 N on fine cells`);
  assert.match(await amount.locator('xpath=ancestor::li').innerHTML(), /by the stress of the field/);
  // A half of a millimetre farther off.
  await put('parts/p4/place/y', '8 mm');
  await page.getByRole('button', { name: /^Run/ }).click();
  await ended(page, 2);
  await page.waitForFunction((before) => Math.abs(parseFloat(document.querySelector('[data-sentence="r1"] .amount').textContent.replace('\u2212', '-'))) < 0.8 * Math.abs(before), pull);
  assert.deepEqual(faults, []);
});

test('the induction kettle: currents that alternate and magnets do not go together', async () => {
  const { page, faults } = at;
  await open(at, 'Induction kettle');
  const sheet = await page.locator('main').innerText();
  assert.match(sheet, /Currents and voltages alternate with/);
  assert.match(sheet, /drives currents in the/);
  await put('run/kind', 'response');
  assert.match(await outstanding(), /1 wrong|2 wrong/);
  await put('run/kind', 'steady');
  assert.doesNotMatch(await outstanding(), /wrong/);
  assert.deepEqual(faults, []);
});
