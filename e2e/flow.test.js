// Flow: a passage in which brine is warmed, what is outstanding when it has no way out, and what its plates show.

import assert from 'node:assert/strict';
import { after, before, test } from 'node:test';
import { documentOf, drawn, edited, ended, put, redrawn, stage } from './browser.js';

const at = stage({ after, before });

test('brine flows through a passage: no way out, no order 2, then streams and a profile', async () => {
  const { page, server, faults } = at;
  await page.goto(server.url);
  await page.getByRole('link', { name: 'open Rib passage' }).click();
  await drawn(page);
  await ended(page);
  const brief = page.locator('#brief');
  assert.match(await brief.innerText(), /What fills part 1 flows\./);
  assert.match(await brief.innerText(), /lets neither heat nor fluid through/);
  // Without its outlet what comes in has nowhere to leave; the run says so in words.
  await page.locator('#s-c3').hover();
  await edited(page, () => page.locator('#s-c3').getByRole('button', { name: 'leave out' }).click());
  await page.getByRole('button', { name: /^Run/ }).click();
  await page.waitForFunction(() => /nowhere to leave/.test(document.getElementById('run').innerText), null, { timeout: 180000 });
  await page.locator('#s-c3').hover();
  await edited(page, () => page.locator('#s-c3').getByRole('button', { name: 'take in' }).click());
  await put(page, 'mesh/order', '1');
  assert.match(await page.locator('#titleblock').evaluate((el) => el.textContent), /flow needs functions of order 2/);
  await put(page, 'mesh/order', '2');
  // What is expected follows what is said, and asks where it is likely to be turbulent.
  const expected = page.locator('#physics-text');
  assert.match(await expected.innerText(), /expected to do so at about 40.mm\/s: Reynolds number 130/);
  await put(page, 'parameters/speed/value', '3 m/s');
  assert.match(await page.locator('#titleblock').evaluate((el) => el.textContent), /likely to be turbulent: its Reynolds number is about 9900/);
  await put(page, 'parameters/speed/value', '20 mm/s');
  await put(page, 'mesh/across', '');
  assert.match(await page.locator('#mesh-text').innerHTML(), /2, and 4 where something flows,/);
  await put(page, 'mesh/across', '4');
  await page.getByRole('button', { name: /^Run/ }).click();
  await ended(page, 3);
  await page.goto(`${page.url().split('?')[0]}plates?plate=II`);
  await drawn(page);
  assert.match(await page.locator('#bar').textContent(), /u, mm\/s/);
  await page.waitForFunction(() => document.querySelectorAll('.line .u-legend .u-label').length === 5, null, { timeout: 240000 }); // four stations
  const streams = page.waitForResponse((r) => r.url().includes('/streams?') && r.status() === 200);
  await redrawn(page, () => page.getByRole('button', { name: '+ streams of the velocity' }).click());
  const data = await (await streams).body();
  assert.ok(JSON.parse(data.subarray(4, 4 + data.readUInt32LE(0)).toString()).counts.length > 20);
  assert.match(await brief.innerText(), /Mass of fluid: .* closed to round-off/);
  assert.match(await brief.innerText(), /The flow: Reynolds number 1[01]0 by the mean speed of 20.mm\/s/);
  // The pressure has a plate although nobody made one.
  await page.getByRole('link', { name: 'III Pressure' }).click();
  await drawn(page);
  assert.match(await page.locator('#bar').textContent(), /p, .*Pa/);
  assert.equal((await documentOf(page)).plates.length, 2);
  assert.deepEqual(faults, []);
});
