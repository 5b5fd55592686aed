// Current with its heat, and a run in time, on the demo models.

import assert from 'node:assert/strict';
import { after, before, test } from 'node:test';
import { drawn, put as browserPut, startBrowser, startServer } from './browser.js';

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

async function open(name) {
  await page.goto(server.url);
  await page.getByRole('link', { name: `open ${name}` }).click();
  await drawn(page);
  await page.waitForFunction(() => document.querySelector('.slip.ended'), null, { timeout: 240000 });
}

async function run(number) {
  await page.getByRole('button', { name: /^Run/ }).click();
  await page.waitForFunction((n) => document.getElementById('run').innerText.includes(`Run #${n}`) && document.querySelector('.slip.ended'), number, { timeout: 300000 });
}

test('current heats a lead; one physics after the other', async () => {
  await open('Electrode lead');
  const brief = page.locator('#brief');
  assert.match(await brief.innerText(), /Current flows in parts 1–3/);
  assert.match(await brief.innerText(), /neither|no heat is lost/);
  await put('mesh/size', '9 mm');
  await put('physics/heat', 'false');
  assert.match(await page.locator('#titleblock').innerText(), /Ready to run|question/);
  await run(2);
  await page.goto(`${page.url().split('?')[0]}plates`);
  await drawn(page);
  assert.match(await page.locator('#brief').innerText(), /Current: 900\.0\sA in, 900\.0\sA out/);
  assert.match(await page.locator('#bar').innerText(), /V, V/, 'a run of current alone shows its potential');

  // The first run has both; its plate can show either.
  await page.locator('table.runs a', { hasText: '#1' }).click();
  await drawn(page);
  assert.match(await page.locator('#bar').innerText(), /T, °C/);
  await page.locator('[data-place="plates/I/field"]').fill('potential');
  await page.keyboard.press('Tab');
  await page.waitForFunction(() => document.documentElement.dataset.drawn === 'yes' && document.getElementById('bar').textContent.includes('V, V'));
  await drawn(page);
  assert.match(await page.locator('#bar').innerText(), /V, V/);
  assert.match(await page.locator('#brief').innerText(), /Heat: .*\sW in/);
});

test('a reading that cannot be taken says why', async () => {
  await open('Bittern pan post');
  await page.getByText('+ reading', { exact: true }).click();
  await page.getByRole('button', { name: 'a formula' }).click();
  await put('readings/r4/values/formula', 'at(temperature, 100 mm, 50 mm, 0 mm)');
  await page.getByText(/a point that lies in no solved part/).first().waitFor({ state: 'attached' });
  await put('readings/r4/values/formula', 'mean(temperature along 100 mm, 50 mm, 0 mm, 120 mm, 50 mm, 0 mm)');
  await run(2);
  assert.match(await page.locator('#run').innerText(), /not settled: r4 has no value/);
  const amount = page.locator('[data-sentence="r4"] .amount');
  assert.equal(await amount.innerText(), 'no value');
  assert.match(await amount.getAttribute('title'), /runs through no solved part/);
});

test('a post warms up in time', async () => {
  await open('Bittern pan post');
  for (const [place, value] of [['size', '25 mm'], ['across', '1'], ['near/1/size', '20 mm'], ['near/2/size', '20 mm']]) await put(`mesh/${place}`, value);
  await put('run/kind', 'transient');
  assert.match(await page.locator('#titleblock').innerText(), /missing/);
  await put('run/end', '20 min');
  await put('run/start', '18 °C');
  await put('run/tolerance', '1 %');
  await run(3);
  await page.goto(`${page.url().split('?')[0]}plates`);
  await drawn(page);
  const time = page.locator('#moment-time');
  assert.equal(await time.innerText(), '20.0 min');
  await page.locator('#moment').focus();
  await page.keyboard.press('Home');
  await page.waitForFunction(() => document.getElementById('moment-time').textContent === '0 min');
  await page.getByRole('button', { name: 'play' }).click();
  await page.waitForFunction(() => Number.parseFloat(document.getElementById('moment-time').textContent) > 2);
  await page.getByRole('button', { name: 'pause' }).click();
  assert.equal(await page.locator('figure.over-time').count(), 3);
  // A pointer on the curve, by the mouse and by the keys; the account of the whole run.
  const curve = page.locator('figure.over-time').first();
  await curve.locator('.u-over').hover({ position: { x: 150, y: 40 } });
  assert.match(await curve.locator('output').innerText(), /^[\d.]+ °C at [\d.]+ min$/);
  await curve.locator('.plot').focus();
  await page.keyboard.press('Home');
  assert.match(await curve.locator('output').innerText(), /^18\.00 °C at 0 min$/);
  assert.match(await page.locator('#brief').innerText(), /Heat over the run: .*\sJ in, .*\sJ out, .*\sJ stored/);
  const csv = await page.request.get(new URL(await page.locator('a[href$="over-time.csv"]').getAttribute('href'), page.url()).href);
  assert.match(await csv.text(), /^time \(s\),foot of the post \(°C\)/);

  // Stopped on its way it has plates so far, and another run takes it to its end.
  await page.goto(page.url().split('plates')[0]);
  await drawn(page);
  await put('run/tolerance', '0.00001 %');
  await page.getByRole('button', { name: /^Run/ }).click();
  await page.waitForFunction(() => /\b[1-9][\d.]*\ss of 1200\ss/.test(document.getElementById('run').innerText), null, { timeout: 240000 });
  await page.getByRole('button', { name: 'stop', exact: true }).click();
  await page.waitForFunction(() => /Run #4 stopped: after [\d.]+\s\w+ of/.test(document.getElementById('run').innerText.replace(/\s+/g, ' ')), null, { timeout: 240000 });
  await page.locator('#run').getByRole('link', { name: 'look' }).click();
  await drawn(page);
  assert.match(await time.innerText(), /min|s/);
  await page.goto(page.url().split('plates')[0]);
  await drawn(page);
  await page.getByRole('button', { name: /^go on from / }).click();
  await page.waitForFunction(() => document.querySelector('.slip.ended')?.innerText.includes('Run #5'), null, { timeout: 300000 });
  await page.locator('#run').getByRole('link', { name: 'look' }).click();
  await drawn(page);
  assert.equal(await time.innerText(), '20.0 min');
  assert.deepEqual(faults, []);
});
