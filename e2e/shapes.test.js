// A part drawn through points, with holes, meshed and run.

import assert from 'node:assert/strict';
import { after, before, test } from 'node:test';
import { drawn, edited as browserEdited, put as browserPut, startBrowser, startServer } from './browser.js';

let server, browser, page, faults;

before(async () => {
  server = await startServer({ command: 'serve' });
  ({ browser, page, faults } = await startBrowser());
  await page.goto(server.url);
  await page.getByPlaceholder('name of the device').fill('Grate foot');
  await page.getByRole('button', { name: 'Begin' }).click();
  await drawn(page);
});

after(async () => {
  await browser?.close();
  await server?.stop();
});

const edited = (action) => browserEdited(page, action);
const put = (place, value) => browserPut(page, place, value);

test('a path with a rounded corner, a point more, and an array of holes', async () => {
  await page.getByText('+ part', { exact: true }).click();
  await edited(() => page.getByRole('button', { name: 'path with a span in z' }).click());
  await put('parts/p1/material', 'grey cast iron');
  for (const [i, [x, y]] of [['0 mm', '0 mm'], ['60 mm', '0 mm'], ['60 mm', '40 mm']].entries()) {
    await put(`parts/p1/outline/points/${i + 1}/x`, x);
    await put(`parts/p1/outline/points/${i + 1}/y`, y);
  }
  const third = page.locator('#part-p1 .points li').nth(2);
  await third.hover();
  await edited(() => third.getByRole('button', { name: '+' }).click());
  await put('parts/p1/outline/points/4/x', '0 mm');
  await put('parts/p1/outline/points/4/y', '40 mm');
  await put('parts/p1/outline/points/3/round', '12 mm');
  await put('parts/p1/span/from', '0 mm');
  await put('parts/p1/span/to', '5 mm');
  await page.locator('#part-p1').getByText('+ hole').click();
  await edited(() => page.locator('#part-p1').getByRole('button', { name: 'slot', exact: true }).click());
  for (const [name, value] of Object.entries({ width: '14 mm', depth: '5 mm', x: '28 mm', y: '20 mm', turn: '90 deg' })) await put(`parts/p1/outline/holes/1/${name}`, value);
  await edited(() => page.locator('#part-p1 .hole').getByRole('button', { name: 'make an array' }).click());
  await put('parts/p1/outline/holes/1/array/count', '4');
  await put('parts/p1/outline/holes/1/array/within', '36 mm');
  const scene = await (await page.request.get(`${page.url()}drawing`)).json();
  const loops = scene.parts[0].copies[0].loops;
  assert.equal(loops.length, 5, 'the outline and four holes');
  assert.ok(scene.parts[0].sides.some((s) => s.name === 'hole 1') && scene.parts[0].sides.some((s) => s.name === 'corner'));
});

test('it is meshed, and heat leaves through the walls of its holes', async () => {
  await put('mesh/size', '2.5 mm');
  await page.getByText('+ condition', { exact: true }).click();
  await edited(() => page.getByRole('button', { name: 'heat received, in all' }).click());
  await put('conditions/c1/on', 'p1|e1');
  await put('conditions/c1/values/power', '12 W');
  await page.getByText('+ condition', { exact: true }).click();
  await edited(() => page.getByRole('button', { name: 'heat given to a fluid' }).click());
  await put('conditions/c2/on', 'p1|hole 1');
  await put('conditions/c2/values/temperature', '20 °C');
  await put('conditions/c2/values/coefficient', '90 W/(m²·K)');
  await page.getByText('+ reading', { exact: true }).click();
  await edited(() => page.getByRole('button', { name: 'heat that leaves' }).click());
  await put('readings/r1/on', 'p1|hole 1');
  await page.getByText('Nothing missing').waitFor();
  await page.getByRole('button', { name: /^Run/ }).click();
  await page.locator('[data-sentence="r1"] .amount:not(.stale)').waitFor();
  assert.equal(await page.locator('[data-sentence="r1"] .amount').innerText(), '12.00 W');
});

test('a drawing becomes parts, with what was left out', async () => {
  const drawing = `<svg xmlns="http://www.w3.org/2000/svg" width="60mm" viewBox="0 0 60 30"><path id="bracket" d="M0 0h60v30h-60z"/><circle cx="15" cy="15" r="4"/><text>bracket</text></svg>`;
  await page.getByText('+ part', { exact: true }).click();
  await page.locator('#trace input[type=file]').setInputFiles({ name: 'sheet.svg', mimeType: 'image/svg+xml', buffer: Buffer.from(drawing) });
  await page.getByText('Drawn: 1 part. Give them their heights; 1 of the kind <text> left out.').waitFor();
  await page.locator('#part-p2').waitFor();
  assert.equal(await page.locator('[data-place="parts/p2/name"]').inputValue(), 'bracket');
  await page.locator('#part-p2 .balloon').click();
  assert.equal(await page.locator('[data-place="parts/p2/outline/holes/1/diameter"]').inputValue(), '8 mm');
  await edited(() => page.locator('#part-p2').getByRole('button', { name: 'remove', exact: true }).click());
});

test('an outline that crosses itself is wrong, and says so', async () => {
  await page.locator('#part-p1 .balloon').click();
  await put('parts/p1/outline/points/3/round', '0 mm');
  await put('parts/p1/outline/points/4/x', '30 mm');
  await put('parts/p1/outline/points/4/y', '-20 mm');
  await page.getByText(/the outline crosses itself/).first().waitFor({ state: 'attached' });
  assert.deepEqual(faults, []);
});
