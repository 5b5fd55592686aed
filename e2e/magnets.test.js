// A pot magnet and its keeper: what is said of them, what is missing, and what a run finds; a coil under a kettle.

import assert from 'node:assert/strict';
import { after, before, test } from 'node:test';
import { base, drawn, ended, open, put as browserPut, stage } from './browser.js';

const at = stage({ after, before });
const put = (place, value) => browserPut(at.page, place, value);
const outstanding = () => at.page.locator('#titleblock').innerText();

test('the lid latch: a magnet without a direction is missing one, its pull is read, lines of flux are drawn', async () => {
  const { page, faults } = at;
  await open(at, 'Lid latch');
  await page.waitForFunction(() => document.querySelector('.slip.ended') || !document.querySelector('.slip'), null, { timeout: 120000 });
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
