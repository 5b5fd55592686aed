// Pipes: the brine line, with its valve, its pump and its chart along the main.
import assert from 'node:assert/strict';
import { after, before, test } from 'node:test';
import { base, changed, drawn, edited, ended, open, put, stage } from './browser.js';

const at = stage({ after, before });

const amounts = async (page) => (await page.locator('.readings .amount').allInnerTexts()).map(parseFloat);

test('the brine line: what its valve lets through, its grade along the main, a pipe more', async () => {
  const { page, faults } = at;
  await open(at, 'Brine line');
  await ended(page, 1);
  await page.goto(base(page));
  await drawn(page);
  const first = await amounts(page);
  const flow = first[0] + first[1] + first[2]; // m³/h to three pans
  // A valve that is nearly shut.
  await put(page, 'parameters/opening/value', '25 %');
  await page.getByRole('button', { name: /^Run/ }).click();
  await ended(page, 2);
  await page.goto(base(page));
  await drawn(page);
  assert.match(await page.locator('#run').innerText(), /settled/);
  const shut = await amounts(page);
  assert.ok(shut[0] + shut[1] + shut[2] < 0.6 * flow, `${shut} after ${first}`);
  assert.ok(shut[4] > first[4], 'the valve takes more');
  assert.ok(Math.abs(shut[8] - first[8]) < 0.02 * first[8], 'the pump lifts as much as before');
  // The hydraulic grade along the main.
  await page.goto(`${base(page)}plates`);
  await drawn(page);
  await page.getByText('II Hydraulic grade').click();
  await drawn(page);
  await page.locator('.line .plot canvas').first().waitFor();
  const text = await page.locator('main').innerText();
  assert.equal(await page.locator('[data-place="plates/II/lines/1/kind"]').inputValue(), 'along');
  assert.match(text, /way from A to B/);
  assert.match(text, /energy head in pipes/);
  // Another kind of valve is chosen where it stands, a bad height is told with its place.
  await page.goto(base(page));
  await drawn(page);
  await put(page, 'conditions/c8/values/kind', 'globe');
  assert.equal(await page.locator('[data-place="conditions/c8/values/kind"]').inputValue(), 'globe');
  await put(page, 'conditions/c7/values/level', '3 kg');
  assert.match(await page.locator('#titleblock').innerText(), /wrong/);
  await put(page, 'conditions/c7/values/level', 'level');
  // One more pipe: a line with two points, of which nothing is said yet.
  await page.getByText('+ part', { exact: true }).click();
  await edited(page, () => page.locator('[data-op*="add-part"]', { hasText: /^line$/ }).click());
  assert.match(await page.locator('#titleblock').innerText(), /missing|outstanding|to be said/i);
  assert.deepEqual(faults, []);
});
