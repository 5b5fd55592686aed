// Trials: a set is put together, made, stopped, read and put on the sheet.

import assert from 'node:assert/strict';
import { after, before, test } from 'node:test';
import { drawn, edited, put, startBrowser, startServer } from './browser.js';

let server, browser, page, faults;

before(async () => {
  server = await startServer();
  ({ browser, page, faults } = await startBrowser());
});

after(async () => {
  await browser?.close();
  await server?.stop();
});

test('the thinnest floor that is even enough', async () => {
  await page.goto(server.url);
  await page.getByRole('link', { name: 'open Pan floor heater' }).click();
  await drawn(page);
  await page.waitForFunction(() => document.querySelector('.slip.ended'), null, { timeout: 240000 });
  await put(page, 'mesh/size', '6 mm');
  await page.keyboard.press('Escape');
  await page.locator('body').click({ position: { x: 5, y: 5 } });
  await page.keyboard.press('3');
  await page.waitForURL(/trials/);
  await drawn(page);

  // A set of its own over one parameter, in the range of its bounds.
  await edited(page, () => page.getByRole('button', { name: '+ trial set' }).click());
  await page.waitForFunction(() => new URLSearchParams(location.search).get('set') === 't2' && !document.querySelector('[aria-busy]'));
  await page.getByText('+ parameter', { exact: true }).click();
  // A menu stays open when news of the server come in.
  await page.evaluate(() => htmx.ajax('GET', location.href, { source: '#trials', target: '#trials', swap: 'morph:innerHTML' }));
  await edited(page, () => page.locator('.menu-sheet button', { hasText: /^t$/ }).click());
  await put(page, 'trials/t2/vary/1/from', '5 mm');
  await put(page, 'trials/t2/vary/1/count', '3');
  await put(page, 'trials/t2/goal/reading', 'r5');
  await put(page, 'trials/t2/goal/while', 'r1 < 15 K');
  await page.getByRole('button', { name: 'Make the trials' }).click();
  await page.waitForFunction(() => /3 of 3 done/.test(document.body.innerText), null, { timeout: 300000 });
  await page.waitForFunction(() => document.querySelectorAll('.point').length === 3);
  assert.match(await page.locator('#trials-brief').innerText(), /Trial \d: t \d.*mm, mass of floor/);

  // The best one is marked; leaving it out makes another one the best.
  const best = await page.locator('.trials-table tr.chosen').getAttribute('data-trial');
  await page.locator(`.trials-table tr[data-trial="${best}"]`).hover();
  await page.locator(`.trials-table tr[data-trial="${best}"] button`).click();
  await page.waitForFunction((b) => document.querySelector('.trials-table tr.chosen')?.dataset.trial !== b, best);
  assert.match(await page.locator(`.trials-table tr[data-trial="${best}"]`).innerText(), /left out by hand/);

  // Another axis of the chart.
  await page.locator('[data-view="across"]').selectOption('r1');
  await page.waitForFunction(() => JSON.parse(document.querySelector('.trials-chart').dataset.chart).x.label === 'unevenness of floor' && document.querySelectorAll('.point').length === 3);

  await page.locator('.point').first().click();
  assert.equal(await page.locator('.trials-table tr.marked').count(), 1);
  if (await page.getByRole('button', { name: 'Put it on the sheet' }).count() === 0) return assert.fail('there is no best trial left');
  await page.getByRole('button', { name: 'Put it on the sheet' }).click();
  await page.waitForURL(/models\/\d+\/$/);
  await drawn(page);
  assert.match(await page.locator('[data-place="parameters/t/value"]').inputValue(), /^(8\.5|12) mm$/);
});

test('a set that cannot run says why', async () => {
  await page.goto(server.url);
  await page.getByRole('link', { name: 'open Dew sampler' }).click();
  await drawn(page);
  await page.goto(`${page.url().split('?')[0]}trials`);
  await drawn(page);
  await put(page, 'trials/t1/vary/1/to', '9 A');
  assert.match(await page.locator('#trials-brief').innerText(), /beyond its greatest value, 6 A/);
  assert.equal(await page.getByRole('button', { name: 'Make the trials' }).count(), 0);
  await put(page, 'trials/t1/vary/1/to', '6 A');
  assert.match(await page.locator('#trials-brief').innerText(), /: 11 trials\./);
  assert.deepEqual(faults, []);
});
