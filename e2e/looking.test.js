// Looking closer: lines of all kinds, planes that are turned, parts that are pale, what swings, runs in a table,
// and runs that wait.

import assert from 'node:assert/strict';
import { readFile } from 'node:fs/promises';
import { after, before, test } from 'node:test';
import { changed, documentOf, drawn, edited, ended, put, redrawn, stage } from './browser.js';

const at = stage({ after, before });
const field = (place) => at.page.locator(`[data-place="${place}"]`);
const type = (place, value) => redrawn(at.page, async () => {
  await field(place).fill(value);
  await field(place).press('Tab');
});
const picture = () => at.page.evaluate(() => document.getElementById('canvas').toDataURL());

test('lines: two circles with two quantities, drawn by clicks, along a side, with ends by hand', async () => {
  const { page, server, faults } = at;
  await page.goto(server.url);
  await page.getByRole('link', { name: 'open Pan floor heater' }).click();
  await drawn(page);
  await ended(page);
  at.base = page.url().split('?')[0];
  await page.goto(`${at.base}plates`);
  await drawn(page);
  await redrawn(page, () => page.locator('#add-circle').click());
  await type('plates/I/lines/1/count', '2');
  assert.match(await field('plates/I/lines/1/by_x').getAttribute('title'), /2 lines lie at one place/);
  await type('plates/I/lines/1/by_x', '10 mm');
  await type('plates/I/lines/1/from_z', '16 mm');
  await type('plates/I/lines/1/also', 'heat flux');
  const names = () => page.locator('.line .u-legend .u-label').allInnerTexts();
  await page.waitForFunction(() => document.querySelectorAll('.line .u-legend .u-label').length === 5);
  assert.deepEqual((await names()).slice(1), ['temperature on A1', 'temperature on A2', 'heat flux on A1', 'heat flux on A2']);
  const csv = page.waitForEvent('download');
  await page.locator('.line [data-csv]').click();
  const rows = (await readFile(await (await csv).path(), 'utf8')).trim().split('\n').map((r) => r.split(','));
  assert.match(rows[0].join(), /way round from A \(mm\).*\(°C\).*\(W\/m²\)/);
  const way = rows.slice(1).map((r) => Number(r[0]));
  assert.ok(Math.abs(way.at(-1) - 2 * Math.PI * 18) < 0.01, `${way.at(-1)} mm round a circle of 18 mm`);
  assert.ok(Math.abs(rows[1][1] - rows.at(-1)[1]) < 0.05, 'a circle ends where it began');
  // The ends of an axis by hand.
  await page.locator('.line [data-axes]').click();
  await page.getByLabel('values in °C, from').fill('120');
  await page.getByLabel('values in °C, to').fill('110');
  await page.keyboard.press('Tab');
  assert.equal(await page.getByLabel('values in °C, to').evaluate((f) => f.validationMessage), 'the axis ends before it begins');
  // A straight line by two clicks.
  const box = await page.locator('#canvas').boundingBox();
  await page.locator('#draw-line').click();
  await page.mouse.click(box.x + box.width * 0.45, box.y + box.height * 0.45);
  await redrawn(page, () => page.mouse.click(box.x + box.width * 0.55, box.y + box.height * 0.5));
  const [, drawnLine] = (await documentOf(page)).plates[0].lines;
  assert.match(`${drawnLine.from_x} ${drawnLine.to_z}`, /mm.*mm/);
  // Along a side of a part.
  await redrawn(page, () => field('plates/I/lines/2/kind').selectOption('side'));
  await redrawn(page, () => field('plates/I/lines/2/side').selectOption({ label: 'front side of the pan floor' }));
  await page.waitForFunction(() => document.querySelectorAll('.line .u-legend').length === 2);
  for (let i = 0; i < 2; i++) await redrawn(page, () => page.getByRole('button', { name: `take line 1 away` }).click());
  assert.deepEqual(faults, []);
});

test('a slice is turned by its handle, parts are pale or hidden, and the plate keeps that', async () => {
  const { page, faults } = at;
  await redrawn(page, () => page.getByRole('button', { name: 'add a slice across x' }).click());
  const handle = await page.locator('[data-turn="0"]').boundingBox();
  await page.mouse.move(handle.x + 4, handle.y + 4);
  await page.mouse.down();
  await page.mouse.move(handle.x - 16, handle.y - 14, { steps: 4 });
  await redrawn(page, () => page.mouse.up());
  const across = await field('plates/I/slices/1/across').inputValue();
  assert.equal(across.split(',').length, 3, across);
  await redrawn(page, () => page.getByRole('button', { name: 'take slice 1 away' }).click());
  const bare = await picture();
  const asked = page.waitForResponse((r) => r.url().includes('/edit'));
  await page.getByLabel('how pan floor is drawn').selectOption('hidden');
  await changed(picture, bare);
  assert.equal((await asked).status(), 200);
  await page.reload();
  await drawn(page);
  assert.equal(await page.getByLabel('how pan floor is drawn').inputValue(), 'hidden');
  assert.deepEqual((await documentOf(page)).plates[0].seen, [{ id: 'floor', how: 'hidden' }]);
  const open = await picture(), kept = page.waitForResponse((r) => r.url().includes('/edit'));
  await page.getByLabel('how pan floor is drawn').selectOption('pale');
  await changed(picture, open);
  assert.equal((await kept).status(), 200);
  // Streams that begin at a surface, and a scale that two plates share.
  await redrawn(page, () => page.getByRole('button', { name: '+ streams of the heat flux' }).click());
  const streams = page.waitForResponse((r) => /streams\?.*side=/.test(r.url()));
  await redrawn(page, () => field('plates/I/streams/1/from').selectOption({ label: 'at the top of the pan floor' }));
  assert.equal((await streams).status(), 200);
  await redrawn(page, () => field('plates/I/shared').selectOption('II'));
  assert.match(await field('plates/I/shared').getAttribute('title'), /temperature cannot share a scale with heat flux/);
  assert.deepEqual(faults, []);
});

test('the table of runs hides, sorts and turns, and several parts are changed at once', async () => {
  const { page, faults } = at;
  await page.goto(at.base);
  await drawn(page);
  const brief = page.locator('#brief');
  await page.getByRole('button', { name: 'Mesh', exact: true }).click();
  assert.equal(await page.locator('[data-place="mesh/size"]').isVisible(), false, 'a section is folded away');
  await page.getByRole('button', { name: 'Mesh', exact: true }).click();
  for (const i of [0, 2]) await page.locator('.balloon').nth(i).click({ modifiers: ['Control'] });
  assert.equal(await page.locator('#chosen b').innerText(), '2 parts');
  await page.locator('#chosen [data-what="material"]').fill('copper');
  await edited(page, () => page.keyboard.press('Tab'));
  const { parts } = await documentOf(page);
  assert.deepEqual(parts.map((p) => p.material), ['copper', 'copper', 'copper', parts[3].material]);
  await page.locator('#s-c2').hover();
  await page.locator('[data-note="conditions/c2/note"]').click();
  await page.keyboard.type('as measured');
  await edited(page, () => page.keyboard.press('Tab'));
  assert.match(await page.locator('#s-c2').innerText(), /Note:/);
  assert.ok(await brief.locator('[data-place="conditions/c2/note"]').isVisible());
  await page.getByRole('button', { name: /^Run/ }).click();
  await ended(page, 2);
  await page.goto(`${at.base}plates`);
  await drawn(page);
  const table = page.locator('#runs'), heads = () => table.locator('th .fig, td .fig, th a, td a').allInnerTexts();
  const order = async () => (await heads()).filter((t) => /^#\d$/.test(t));
  assert.deepEqual(await order(), ['#2', '#1']);
  assert.ok(await table.evaluate((t) => t.classList.contains('turned')), 'six readings stand below each other');
  await page.getByRole('button', { name: 'turn the table' }).click();
  await page.getByRole('button', { name: 'sort the runs by hottest place, °C' }).click();
  const values = await table.locator('tbody tr td:nth-child(4)').evaluateAll((list) => list.map((c) => Number(c.dataset.sort)));
  assert.deepEqual(values, [...values].sort((a, b) => a - b));
  await table.locator('th').nth(3).hover();
  await page.getByRole('button', { name: 'hide hottest place, °C' }).click();
  await page.reload();
  await drawn(page);
  assert.equal(await page.getByRole('button', { name: 'sort the runs by hottest place, °C' }).count(), 0, 'it stays hidden');
  await page.getByRole('button', { name: 'show hottest place, °C again' }).click();
  await page.getByRole('button', { name: 'a reading over the runs' }).click();
  await page.waitForSelector('#runs-chart canvas');
  assert.match(await page.locator('#runs-chart .u-legend').innerText(), /hottest place/);
  assert.equal(await page.getByRole('button', { name: 'sort the runs by hottest place, °C' }).count(), 1);
  assert.deepEqual(faults, []);
});

test('runs of several models wait in a queue, which is reordered', async () => {
  const { page, server, faults } = at;
  await page.goto(at.base);
  await drawn(page);
  await put(page, 'mesh/size', '0.9 mm');
  await page.getByRole('button', { name: /^Run/ }).click();
  for (const name of ['Electrode lead', 'Dew sampler']) {
    await page.goto(server.url);
    await page.getByRole('link', { name: `open ${name}` }).click();
    await drawn(page);
    await ended(page).catch(() => {}); // those of the demo have run once
    await page.getByRole('button', { name: /^Run/ }).click();
    await page.waitForSelector('.slip:not(.ended), .slip.ended');
  }
  await page.goto(`${server.url}queue`);
  assert.match(await page.locator('main').innerText(), /Pan floor heater|No run waits/);
  const up = page.getByRole('button', { name: 'move the run of Dew sampler up' });
  if (await up.count()) { // unless the machine was quicker
    await up.click();
    await page.waitForURL(/queue/);
  }
  for (let stop; (stop = page.getByRole('button', { name: /^stop the run|^take it out/ }).first()), await stop.count();) await stop.click().catch(() => {});
  assert.deepEqual(faults, []);
});

test('what swings is shown at an angle, as a phase, and taken away as numbered pictures', async () => {
  const { page, server, faults } = at;
  await page.goto(server.url);
  await page.getByRole('link', { name: 'open Rake shoe' }).click();
  await drawn(page);
  const model = page.url().match(/models\/(\d+)/)[1];
  const edit = (values) => page.evaluate(async ([id, v]) => (await fetch(`/models/${id}/edit`, { method: 'POST', headers: { 'HX-Request': 'true' }, body: new URLSearchParams(v) })).status, [model, values]);
  await put(page, 'mesh/size', '14 mm');
  for (const c of (await documentOf(page)).conditions.filter((c) => c.kind.startsWith('film.'))) assert.equal(await edit({ op: 'set', place: `conditions/${c.id}/off`, value: 'true' }), 200);
  assert.equal(await edit({ op: 'add-sentence', kind: 'solid.spread-force', on: 'sole|bottom' }), 200);
  const force = (await documentOf(page)).conditions.find((c) => c.kind === 'solid.spread-force').id;
  for (const [place, value] of [[`conditions/${force}/values/z`, '1 kPa*swing'], ['run/kind', 'response'], ['run/lowest', '100 Hz'], ['run/highest', '2000 Hz'], ['run/count', '4']]) assert.equal(await edit({ op: 'set', place, value }), 200);
  await page.goto(page.url());
  await drawn(page);
  const number = (await page.locator('#run').innerText()).match(/Run #(\d+)/)?.[1] ?? 0;
  await page.getByRole('button', { name: /^Run/ }).click();
  await ended(page, Number(number) + 1);
  await page.goto(`${page.url().split('?')[0]}plates`);
  await drawn(page);
  await page.getByText('+ plate', { exact: true }).click();
  await redrawn(page, () => page.getByRole('button', { name: 'Displacement z, swinging' }).click());
  assert.match(await page.locator('#bar').textContent(), /mm/);
  const still = await picture();
  await page.locator('#phase').fill('0.5');
  const turned = await changed(picture, still);
  assert.equal(await page.locator('#phase-told').innerText(), '180°');
  await page.locator('#phase').fill('0');
  await changed(picture, turned);
  const download = page.waitForEvent('download');
  await page.locator('#stills').click();
  const zip = await readFile(await (await download).path());
  assert.equal(zip.subarray(0, 2).toString(), 'PK');
  assert.ok(zip.includes('plate-0024.png'));
  await page.getByText('+ plate', { exact: true }).click();
  await redrawn(page, () => page.getByRole('button', { name: 'Phase of Displacement z' }).click());
  assert.match(await page.locator('.plate-line input').inputValue(), /Phase of displacement z/);
  assert.deepEqual(faults, []);
});
