// Films: the rake shoe on its film, stiff at first, then as it bends.
import assert from 'node:assert/strict';
import { after, before, test } from 'node:test';
import { base, drawn, ended, open, put, stage } from './browser.js';

const at = stage({ after, before });

test('the rake shoe: its film under a stiff sole and under one that bends stand beside each other', async () => {
  const { page, faults } = at;
  await open(at, 'Rake shoe');
  // What a formula of the place is, stands in its row.
  assert.match(await page.locator('#parameter-gap').innerText(), /a length, by place or time/);
  await ended(page, 1); // that of the demo itself
  await put(page, 'mesh/size', '16 mm');
  const least = async (number) => {
    await page.getByRole('button', { name: /^Run/ }).click();
    await ended(page, number);
    await page.goto(base(page));
    await drawn(page);
    assert.match(await page.locator('#run').innerText(), /settled/);
    return parseFloat(await page.locator('.readings .amount').first().innerText()); // µm
  };
  const bends = await least(2);
  const stiff = (value) => page.evaluate(async ([m, v]) => (await fetch(`/models/${m}/edit`, { method: 'POST', headers: { 'HX-Request': 'true' }, body: new URLSearchParams({ op: 'set', place: 'conditions/c7/off', value: v }) })).status, [page.url().match(/models\/(\d+)/)[1], value]);
  assert.equal(await stiff('true'), 200);
  await page.goto(page.url());
  await drawn(page);
  const rigid = await least(3);
  assert.ok(bends < 0.95 * rigid, `${bends} µm under a sole that bends, ${rigid} µm under a stiff one`);
  await page.goto(`${base(page)}plates`);
  await drawn(page);
  await page.getByRole('button', { name: 'below', exact: true }).click();
  const text = await page.locator('main').innerText();
  assert.match(text, /least thickness of the film, µm/);
  assert.match(text, /0 kPa/);
  // A term of another dimension is refused, with what would fit.
  await page.goto(base(page));
  await drawn(page);
  await put(page, 'parameters/gap/value', '40 µm + 30 N*x/length');
  assert.match(await page.locator('#titleblock').innerText(), /wrong/);
  assert.deepEqual(faults, []);
});
