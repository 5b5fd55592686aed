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
  await page.waitForFunction(() => document.querySelector('.slip.ended'), null, { timeout: 60000 });
}

async function run(number) {
  await page.getByRole('button', { name: /^Run/ }).click();
  await page.waitForFunction((n) => document.getElementById('run').innerText.includes(`Run #${n}`) && document.querySelector('.slip.ended'), number, { timeout: 90000 });
}

test('current heats a lead; one physics after the other', async () => {
  await open('Electrode lead');
  const brief = page.locator('#brief');
  assert.match(await brief.innerText(), /Current flows in parts 1–3/);
  assert.match(await brief.innerText(), /neither|Terminals lose no heat/);
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
  await page.locator('[data-place="plates/I/field"]').selectOption('potential');
  await page.waitForFunction(() => document.documentElement.dataset.drawn === 'yes' && document.getElementById('bar').textContent.includes('V, V'));
  await drawn(page);
  assert.match(await page.locator('#bar').innerText(), /V, V/);
  assert.match(await page.locator('#brief').innerText(), /Heat: .*\sW in/);
});

test('a post warms up in time', async () => {
  await open('Bittern pan post');
  await put('mesh/size', '25 mm');
  await put('run/kind', 'transient');
  assert.match(await page.locator('#titleblock').innerText(), /missing/);
  await put('run/end', '20 min');
  await put('run/start', '18 °C');
  await put('run/tolerance', '1 %');
  await run(2);
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
  assert.deepEqual(faults, []);
});
