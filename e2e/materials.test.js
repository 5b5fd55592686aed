// Materials, values that are formulas, and what a reading's formula says.

import assert from 'node:assert/strict';
import { after, before, test } from 'node:test';
import { drawn, edited as browserEdited, put as browserPut, startBrowser, startServer } from './browser.js';

let server, browser, page, faults, sheet;

before(async () => {
  server = await startServer();
  ({ browser, page, faults } = await startBrowser());
  await page.goto(server.url);
  await page.getByRole('link', { name: 'open Pan floor heater' }).click();
  await drawn(page);
  await page.locator('.slip.ended').waitFor(); // the demo's own first run
  sheet = page.url();
});

after(async () => {
  await browser?.close();
  await server?.stop();
});

const edited = (action) => browserEdited(page, action);
const put = (place, value) => browserPut(page, place, value);

test('a material is found by typing, copied, changed by pasted rows and given to a part', async () => {
  await page.locator('#part-brick .balloon').click();
  await page.getByRole('link', { name: 'all of fire clay' }).click();
  await page.locator('.stuff-head h2 .val').waitFor();
  await page.waitForLoadState('load'); // its keys are listened to
  await page.keyboard.press('/');
  await page.keyboard.type('graphite fine');
  assert.deepEqual(await page.locator('.stuff-row:visible').allInnerTexts().then((list) => list.map((t) => t.split('\n')[0])), ['graphite']);
  await page.keyboard.press('Enter');
  await page.getByRole('heading', { name: 'graphite' }).waitFor();
  await edited(() => page.getByRole('button', { name: /copy it into this model/ }).click());
  const value = page.locator('[data-place="materials/graphite/conductivity"]');
  await value.waitFor();
  assert.equal(await page.locator('#property-conductivity .curve').count(), 0);
  await put('materials/graphite/conductivity', '20\t104\n400\t80');
  await page.locator('#property-conductivity .curve').waitFor();
  assert.equal(await value.inputValue(), 'table(temperature, 20 °C: 104 W/(m·K), 400: 80)');
  await put('materials/graphite/density', '1780 kg');
  await page.locator('#property-density .bad').waitFor();
  assert.match(await page.locator('#property-density .bad').innerText(), /is given as a mass; write it in kg\/m³/);
  await put('materials/graphite/density', '1780 kg/m³');
  await page.getByText('give it to …').click();
  await edited(() => page.getByRole('button', { name: 'the hearth brick' }).click());
  await page.getByText('Material of the hearth brick.').waitFor();
});

test('a property is searched for, brine has its salt, and a part its finish', async () => {
  const materials = `${sheet.split('?')[0]}materials`;
  await page.goto(`${materials}?m=brine`);
  await page.getByRole('heading', { name: 'brine' }).waitFor();
  const list = await page.locator('.stuff-list').boundingBox(), one = await page.locator('.stuff-one').boundingBox();
  assert.ok(list.x < 5 && one.x > 200 && Math.abs(list.y - one.y) < 5, 'the list stands left of the material');
  assert.equal(await page.locator('#property-density polyline.beside').count(), 5);
  await page.locator('#find').fill('metal conductivity over 200');
  await page.locator('.stuff-row:visible', { hasText: 'silver' }).locator('.found', { hasText: '429 W/(m·K)' }).waitFor();
  assert.equal(await page.locator('.stuff-row:visible', { hasText: 'steel' }).count(), 0);
  await page.locator('#find').fill('beauty over 3');
  await page.locator('#find[aria-invalid="true"]').waitFor();
  await page.locator('#find').fill('');
  await edited(() => page.getByRole('button', { name: /copy it into this model/ }).click());
  await page.locator('[data-place="materials/brine/state/mass_fraction"]').waitFor();
  await put('materials/brine/state/mass_fraction', '10 %');
  await page.locator('#property-density', { hasText: '1071' }).waitFor();
  await put('materials/brine/state/mass_fraction', '120 %');
  await page.locator('#property-density .bad', { hasText: 'must lie between' }).waitFor();
  await put('materials/brine/state/mass_fraction', '20 %');
  await page.locator('#property-density', { hasText: '1148' }).waitFor();
  await page.goto(sheet);
  await drawn(page);
  await page.locator('#part-floor .balloon').click();
  await edited(() => page.locator('[data-place="parts/floor/finish"]').selectOption('oxidised'));
  assert.equal(await page.locator('[data-place="parts/floor/finish"]').inputValue(), 'oxidised');
});

test('a property that is missing is outstanding, and its line leads to where it is typed', async () => {
  await page.goto(`${sheet.split('?')[0]}materials?m=graphite`);
  await page.locator('#property-conductivity').hover();
  await edited(() => page.locator('#property-conductivity .cross').click());
  await page.goto(sheet);
  await drawn(page);
  await page.locator('.outstanding summary').click();
  await page.getByRole('button', { name: /graphite has no thermal conductivity/ }).click();
  const field = page.locator('[data-place="materials/graphite/conductivity"]').first();
  await field.waitFor({ state: 'visible' });
  assert.equal(await page.evaluate(() => document.activeElement.dataset.place), 'materials/graphite/conductivity');
  await put('materials/graphite/conductivity', '100 W/(m·K)');
  await page.getByText('Nothing missing').waitFor();
});

test('a reading by a formula of the result, and a coefficient that differs from place to place', async () => {
  await put('conditions/c2/values/coefficient', '850 W/(m²·K)*(1 + 0.2*x/52 mm)');
  await page.getByText('+ reading', { exact: true }).click();
  await edited(() => page.getByRole('button', { name: 'a formula' }).click());
  await put('readings/r7/name', 'right over left');
  const open = page.locator('[data-open-reading="r7"]');
  if ((await open.getAttribute('aria-expanded')) !== 'true') await open.click();
  await put('readings/r7/values/formula', 'mean(temperature over floor.right) - mean(temperature over floor.left)');
  await page.getByText('Nothing missing').waitFor();
  await page.getByRole('button', { name: /^Run/ }).click();
  await page.locator('[data-sentence="r7"] .amount:not(.stale)').waitFor();
  const kelvin = (await page.locator('[data-sentence="r7"] .amount').innerText()).replace('−', '-');
  assert.match(kelvin, /K(\s±\s[\d.]+)?$/u);
  assert.ok(parseFloat(kelvin) < -2 && parseFloat(kelvin) > -40, `more cooling on the right: ${kelvin}`);
  await put('readings/r7/values/formula', 'mean(temperature over floor.right) - 3 W');
  await page.getByText(/"3 W" is a power and cannot be taken from/).first().waitFor({ state: 'attached' });
});

test('a parameter beyond its bounds is wrong, and its uses lead to their places', async () => {
  await put('parameters/t/value', '30 mm');
  await page.locator('[data-place="parameters/t/value"][aria-invalid]').waitFor();
  assert.match(await page.locator('[data-place="parameters/t/value"]').getAttribute('title'), /above its greatest value 12 mm/);
  await put('parameters/t/value', '6 mm');
  await page.locator('.parameters li', { has: page.locator('[data-place="parameters/t/value"]') }).locator('.used summary').click();
  await page.getByRole('button', { name: 'pan floor, top' }).click();
  await page.waitForFunction(() => document.activeElement.dataset.place === 'parts/floor/span/to');
  assert.deepEqual(faults, []);
});
