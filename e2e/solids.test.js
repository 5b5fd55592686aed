// A bar that heat and load bend, what it looks like, and its tones.

import assert from 'node:assert/strict';
import { after, before, test } from 'node:test';
import { changed, settled, drawn, edited, put as browserPut, startBrowser, startServer } from './browser.js';

let server, browser, page, faults;

before(async () => {
  server = await startServer();
  ({ browser, page, faults } = await startBrowser());
});

after(async () => {
  await browser?.close();
  await server?.stop();
});

const put = (place, value) => browserPut(page, place, value);

/** Adds a condition from the menu and says where it acts; it returns the id. */
async function say(title, on) {
  const ids = () => page.locator('#conditions-rows .flag').allInnerTexts();
  const before = await ids();
  await page.getByText('+ condition', { exact: true }).click();
  await edited(page, () => page.getByRole('button', { name: title, exact: true }).click());
  const id = (await ids()).find((x) => !before.includes(x));
  const field = page.locator(`[data-place="conditions/${id}/on"]`);
  await field.focus(); // its choices are fetched then
  await edited(page, () => field.selectOption({ label: on }));
  return id;
}

async function run(number) {
  await page.getByRole('button', { name: /^Run/ }).click();
  await page.waitForFunction((n) => document.getElementById('run').innerText.includes(`Run #${n}`) && document.querySelector('.slip.ended'), number, { timeout: 300000 });
}

test('heat bends a bar; it is seen, and the bar has tones', async () => {
  await page.goto(server.url);
  await page.getByRole('link', { name: 'open Grate bar' }).click();
  await drawn(page);
  // What is said of heat alone holds.
  const model = page.url().match(/models\/(\d+)/)[1];
  for (const id of ['c5', 'c6', 'c7', 'c8', 'c9', 'c10', 'c11', 'c12']) {
    const left = await page.evaluate(async ([m, place]) => (await fetch(`/models/${m}/edit`, { method: 'POST', headers: { 'HX-Request': 'true' }, body: new URLSearchParams({ op: 'set', place, value: 'true' }) })).status, [model, `conditions/${id}/off`]);
    assert.equal(left, 200);
  }
  await page.goto(page.url());
  await drawn(page);
  await put('mesh/size', '20 mm');
  await put('parameters/slots/value', '2');
  await put('mesh/order', '1');
  const brief = page.locator('#brief');
  assert.match(await brief.innerText(), /Nothing bends\./);
  await say('a part bends', 'bar');
  assert.match(await page.locator('#titleblock').innerText(), /nothing holds what bends|outstanding|missing/i);
  const held = await say('surface that moves, or is free, by direction', 'edge e5 of the bar');
  await put(`conditions/${held}/values/x`, '0 mm');
  await put(`conditions/${held}/values/y`, '0 mm');
  await put(`conditions/${held}/values/z`, '0 mm');
  const expands = await say('heat expands a part', 'bar');
  await put(`conditions/${expands}/values/temperature`, '20 °C');
  assert.match(await brief.innerText(), /Load and heat bend part \d\./);
  await run(1);
  await page.goto(`${page.url().split('?')[0]}plates`);
  await drawn(page);
  assert.match(await brief.innerText(), /temperature: .*conjugate gradients.*then displacement/s);
  assert.match(await brief.innerText(), /Force along z: [^,]*\sN in, [^,]*\sN out, closed/);
  await page.locator('[data-place="plates/I/field"]').fill('von mises');
  await page.keyboard.press('Tab');
  await page.waitForFunction(() => document.documentElement.dataset.drawn === 'yes' && (document.getElementById('bar')?.textContent ?? '').includes('MPa'));
  await page.locator('[data-place="plates/I/field"]').fill('deflection');
  await page.keyboard.press('Tab');
  await page.waitForFunction(() => (document.getElementById('bar')?.textContent ?? '').includes('u, mm'));
  assert.equal(await page.locator('[data-place="plates/I/unit"]').inputValue(), 'mm', 'a plate of another field has its unit');
  const bent = page.locator('[data-place="plates/I/bent"]');
  await bent.fill('automatic');
  await bent.press('Tab');
  await page.waitForFunction(() => /Drawn bent by [\d.]+ times/.test(document.getElementById('bent')?.textContent ?? ''));

  // Its tones: other fields of the run, a list of frequencies, a slider over the shapes.
  await page.getByRole('link', { name: /^Sheet/ }).click();
  await drawn(page);
  await put('physics/heat', 'false');
  await page.locator(`[data-sentence="${expands}"]`).hover(); // its cross is shown then
  await edited(page, () => page.locator(`[data-remove="${expands}"]`).click());
  await put('run/kind', 'modes');
  await put('run/count', '3');
  await run(2);
  await page.goto(`${page.url().split('?')[0]}plates`);
  await drawn(page);
  assert.equal(await page.locator('.modes tbody tr').count(), 3);
  assert.match(await page.locator('.modes').innerText(), /mass it moves along x, y, z/i);
  assert.match(await page.locator('#moment-time').innerText(), /^1: [\d.\s]+Hz$/);
  await page.locator('#moment').fill('2');
  await page.waitForFunction(() => /^3: [\d.\s]+Hz$/.test(document.getElementById('moment-time').innerText));
  // A mode swings: the drawing is another one from moment to moment, and stands still again.
  const swing = page.getByRole('button', { name: 'let it swing' }), picture = () => page.evaluate(() => document.getElementById('canvas').toDataURL());
  await swing.click();
  await changed(picture, await changed(picture, await picture()));
  await swing.click();
  await settled(picture);
  assert.deepEqual(faults, []);
});
