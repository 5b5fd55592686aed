// A grate bar that heat and load bend between springs, rollers and a wedge, and a rod that a jet bends.

import assert from 'node:assert/strict';
import { after, before, test } from 'node:test';
import { base, drawn, edited, ended, open, put as browserPut, stage } from './browser.js';

const at = stage({ after, before });
const put = (place, value) => browserPut(at.page, place, value);

/** Runs the model and goes to its plates. */
async function run(number) {
  await at.page.getByRole('button', { name: /^Run/ }).click();
  await ended(at.page, number);
  await at.page.goto(`${base(at.page)}plates`);
  await drawn(at.page);
}

/** The value of a reading in its row of the first run that is listed. */
const reading = (name) => at.page.evaluate((n) => [...document.querySelectorAll('tr')].find((r) => r.innerText.includes(n))?.innerText.replace(/\s+/g, ' '), name);

test('a grate bar bows between its springs, and a softer lining lets it bow on', async () => {
  const { page, faults } = at;
  await open(at, 'Grate bar');
  await put('mesh/size', '20 mm');
  await put('parameters/slots/value', '1');
  await put('mesh/order', '1'); // too stiff, and quick
  await run(1);
  const brief = page.locator('#brief');
  assert.match(await brief.innerText(), /then displacement/);
  assert.match(await brief.innerText(), /Force along y: .*closed/);
  for (const name of ['greatest stress', 'greatest displacement', 'on the right lining', 'safety']) assert.match(await reading(name), /\d/, name);
  const stiff = await reading('greatest displacement');
  // Each plate: the temperature, the stress with its extremes, the displacement in mm.
  for (const [plate, unit] of [['I', '°C'], ['II', 'MPa'], ['III', 'mm']]) {
    await page.goto(`${base(at.page)}plates?plate=${plate}`);
    await drawn(page);
    assert.match(await page.locator('#bar').textContent(), new RegExp(unit));
    assert.match(await brief.innerText(), /Highest at/);
  }
  // A lining of a third of the stiffness.
  await page.goto(base(at.page));
  await drawn(page);
  await put('conditions/c9/values/y', '20 N/mm³');
  await run(2);
  assert.notEqual(await reading('greatest displacement'), stiff);
  assert.match(await brief.innerText(), /60 N\/mm³ → 20 N\/mm³/);
  // Without springs and wedge nothing holds it: which motions are free is said.
  await page.goto(base(at.page));
  await drawn(page);
  for (const id of ['c8', 'c9', 'c10']) {
    await page.locator(`[data-sentence="${id}"]`).hover(); // its buttons are shown then
    await edited(page, () => page.locator(`[data-sentence="${id}"] button`, { hasText: 'leave out' }).click());
  }
  assert.match(await page.locator('#titleblock').innerText(), /1 missing/);
  await page.locator('#titleblock summary').click();
  assert.match(await page.locator('#titleblock').innerText(), /move along x, move along y, turn about z/);
  assert.deepEqual(faults, []);
});

test('a jet bends a rod: the push arrives at its foot, and the angle of the gate is tried', async () => {
  const { page, faults } = at;
  await open(at, 'Sluice rod');
  await run(1);
  const brief = page.locator('#brief');
  for (const name of ['force on the rod', 'deflection of the rod', 'torque at its foot']) assert.match(await reading(name), /\d/, name);
  assert.match(await brief.innerText(), /Force along x: .*closed/);
  await page.goto(`${base(at.page)}plates?plate=III`);
  await drawn(page);
  assert.match(await page.locator('#bar').textContent(), /Pa/);
  await page.goto(`${base(at.page)}trials`);
  await put('trials/t1/vary/1/count', '2');
  await page.getByRole('button', { name: 'Make the trials' }).click();
  await page.waitForFunction(() => /2 of 2 done/.test(document.body.innerText), null, { timeout: 240000 });
  assert.match(await page.locator('#trials-brief').innerText(), /[Tt]rial \d: gate \d.*deg/);
  assert.deepEqual(faults, []);
});
