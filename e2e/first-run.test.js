// The first job: from a blank sheet to a temperature that is known.

import assert from 'node:assert/strict';
import { after, before, test } from 'node:test';
import { drawn, edited, put as browserPut, startBrowser, startServer } from './browser.js';

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

/** Chooses an entry of one of the menus of the brief. */
async function add(menu, entry) {
  await page.getByText(menu, { exact: true }).click();
  await edited(page, () => page.locator('details[open] .menu-sheet').getByRole('button', { name: entry, exact: true }).click());
}

const outstanding = () => page.locator('#titleblock .tb.full').innerText();

test('blank sheet, two parts, run, read the maximum', async () => {
  await page.goto(server.url);
  await page.getByPlaceholder('name of the device').fill('Two slabs');
  await page.getByRole('button', { name: 'Begin' }).click();
  await drawn(page);
  assert.match(await outstanding(), /missing/);

  // A steel slab of 10 mm on a brick of 20 mm; heat in the brick leaves through
  // the top of the slab.
  for (const [id, name, material, from, to] of [['p1', 'brick', 'common brick', '0 mm', '20 mm'], ['p2', 'slab', 'steel 304', '20 mm', '30 mm']]) {
    await add('+ part', 'rectangle with a span in z');
    await put(`parts/${id}/name`, name);
    await put(`parts/${id}/material`, material);
    await put(`parts/${id}/outline/width`, '60 mm');
    await put(`parts/${id}/outline/depth`, '40 mm');
    await put(`parts/${id}/span/from`, from);
    await put(`parts/${id}/span/to`, to);
  }
  await put('mesh/size', '4 mm');

  await add('+ condition', 'heat released per volume');
  await put('conditions/c1/on', 'p1');
  await put('conditions/c1/values/density', '50 kW');
  assert.match(await page.locator('[data-place="conditions/c1/values/density"]').getAttribute('title'), /a power, where a power per volume is wanted/);
  await put('conditions/c1/values/density', '50 kW/m³');

  await add('+ condition', 'temperature held');
  await put('conditions/c2/on', 'p2|top');
  await put('conditions/c2/values/temperature', '40 °C');

  await add('+ reading', 'greatest temperature');
  await put('readings/r1/on', 'p1');
  assert.match(await outstanding(), /Nothing missing/);

  await page.getByRole('button', { name: /^Run/ }).click();
  await page.locator('.slip.ended .good').waitFor({ timeout: 240000 });
  const amount = page.locator('[data-sentence="r1"] .amount');
  await amount.waitFor();
  // T = 40 °C + q L d/k of the slab + q L²/(2k) of the brick, at its foot.
  const exact = 40 + 50e3 * 0.02 * 0.01 / 14.9 + 50e3 * 0.02 ** 2 / 2 / 0.72;
  const shown = parseFloat(await amount.innerText());
  assert.ok(Math.abs(shown - exact) < 0.02, `${shown} °C instead of ${exact}`);
});

test('the plates show the field, the value under the pointer and the readings', async () => {
  await page.keyboard.press('2');
  await page.waitForURL(/plates/);
  await drawn(page);
  assert.match(await page.locator('#titleblock').innerText(), /40\.0+ °C slab/);
  const box = await page.locator('#canvas').boundingBox();
  await page.mouse.move(box.x + box.width / 2, box.y + box.height * 0.42);
  await page.waitForFunction(() => /°C/.test(document.getElementById('pointer').textContent));
  assert.match(await page.locator('#pointer').innerText(), /\d °C\s+(slab|brick)/);
  // The range is fixed by hand and the page keeps it.
  await page.locator('[data-place="plates/I/low"]').fill('20 °C');
  await page.locator('[data-place="plates/I/low"]').press('Tab');
  await page.waitForFunction(() => document.querySelector('#bar')?.textContent.includes('20.00'));
  assert.deepEqual(faults, []);
});

test('a plate is cut open; the slice is dragged, typed and taken away', async () => {
  const cut = page.locator('[data-slice]');
  const reloaded = async (act) => {
    await Promise.all([page.waitForEvent('load'), act()]);
    await drawn(page);
  };
  await reloaded(() => page.locator('[data-add-slice="z"]').click());
  assert.equal(await cut.count(), 1);
  const at = cut.locator('[data-place$="/at"]');
  const before = await at.inputValue();
  // What is under the pointer is then on the slice, and not what was cut away.
  const fetched = page.waitForResponse((r) => r.url().includes('/slice?') && r.ok());
  await reloaded(() => cut.locator('[type=range]').fill('300'));
  await fetched;
  assert.notEqual(await at.inputValue(), before);
  await page.mouse.move(5, 5);
  const box = await page.locator('#canvas').boundingBox();
  await page.mouse.move(box.x + box.width * 0.5, box.y + box.height * 0.5);
  await page.waitForFunction(() => /\d/.test(document.getElementById('pointer').textContent));
  await reloaded(async () => {
    await at.fill('2 kg');
    await at.press('Tab');
  });
  assert.match(await at.getAttribute('title'), /where a length is wanted/);
  assert.doesNotMatch(await page.locator('#titleblock').innerText(), /older/, 'a plate changes no result');
  await reloaded(() => cut.getByRole('button', { name: 'take slice 1 away' }).click());
  assert.equal(await cut.count(), 0);
});

test('a change, a second run, and what changed between them', async () => {
  await page.keyboard.press('1');
  await drawn(page);
  await put('parts/p2/material', 'copper');
  await page.keyboard.press('Escape');
  await page.locator('#canvas').focus();
  await page.keyboard.press('Enter');
  await page.waitForFunction(() => /Run #2/.test(document.getElementById('run').innerText) && document.querySelector('.slip.ended .good'), null, { timeout: 240000 });
  await page.goto(`${page.url().split('?')[0]}plates`);
  await drawn(page);
  assert.match(await page.locator('table.runs tbody tr').first().innerText(), /#2\s+×\s+slab: steel 304 → copper/);
});

test('undo and redo by keyboard, and everything is there after a restart', async () => {
  await page.goto(page.url().replace(/plates.*/, ''));
  await drawn(page);
  const material = page.locator('[data-place="parts/p2/material"]');
  const press = (key) => edited(page, async () => {
    await page.locator('#canvas').focus();
    await page.keyboard.press(key);
  });
  await press('Control+z'); // the material
  await page.waitForFunction(() => document.querySelector('[data-place="parts/p2/material"]').value === 'steel 304');
  await press('Control+y');
  await page.waitForFunction(() => document.querySelector('[data-place="parts/p2/material"]').value === 'copper');
  const path = new URL(page.url()).pathname;
  await server.stop('SIGKILL');
  server = await startServer({ data: server.data });
  await page.goto(new URL(path, server.url).href);
  await drawn(page);
  assert.equal(await material.inputValue(), 'copper');
  assert.match(await page.locator('#titleblock').innerText(), /#2 ·/);
});

test('a line over two runs: drawn, read under the pointer, typed and taken away', async () => {
  await page.locator('#canvas').focus();
  await page.keyboard.press('2');
  await page.waitForURL(/plates/);
  await drawn(page);
  const reloaded = async (act) => {
    await Promise.all([page.waitForEvent('load'), act()]);
    await drawn(page);
    await page.waitForFunction(() => document.documentElement.dataset.lines === 'yes');
  };
  await reloaded(() => page.locator('#add-line').click());
  await page.locator('[data-overlay]').last().check();
  const names = page.locator('.u-legend .u-label');
  await page.waitForFunction(() => document.querySelectorAll('.u-legend .u-series').length === 3);
  assert.deepEqual(await names.allInnerTexts(), ['way from A to B', 'temperature of run #2', 'temperature of run #1']);
  const [download] = await Promise.all([page.waitForEvent('download'), page.locator('[data-csv]').click()]);
  assert.equal(download.suggestedFilename(), 'line.csv');
  const along = page.locator('[data-line]');
  await reloaded(async () => {
    await along.locator('[data-place$="/from_x"]').fill('2000 mm');
    await along.locator('[data-place$="/from_x"]').press('Tab');
  });
  await reloaded(async () => {
    await along.locator('[data-place$="/to_x"]').fill('3000 mm');
    await along.locator('[data-place$="/to_x"]').press('Tab');
  });
  assert.match(await along.innerText(), /runs through no part/);
  await Promise.all([page.waitForEvent('load'), along.getByRole('button', { name: 'take line 1 away' }).click()]);
  await drawn(page);
  assert.equal(await along.count(), 0);
});

test('clicking a surface offers sentences, and the chosen one speaks of it', async () => {
  await page.getByRole('link', { name: 'to the shelf' }).click();
  await page.getByRole('link', { name: 'open Pan floor heater' }).click();
  await drawn(page);
  const box = await page.locator('#canvas').boundingBox();
  const spot = [box.x + box.width * 0.5, box.y + box.height * 0.36];
  await page.mouse.move(...spot);
  await page.waitForFunction(() => document.getElementById('under').textContent === 'top of the pan floor');
  await page.mouse.click(...spot);
  // What is offered fits on the sheet, and typing narrows it.
  const offered = page.locator('#offer');
  const [shown, frame] = [await offered.boundingBox(), await page.locator('#view').boundingBox()];
  assert.ok(shown.y >= frame.y && shown.y + shown.height <= frame.y + frame.height, `the offer at ${shown.y} … ${shown.y + shown.height} is cut`);
  await page.keyboard.type('flow cylinder');
  assert.deepEqual(await offered.locator('li:visible').allInnerTexts(), ['heat given to a flow across a cylinder']);
  await offered.locator('.finder').fill('');
  await edited(page, () => offered.getByRole('button', { name: 'temperature held' }).click());
  await page.waitForFunction(() => document.querySelector('[data-place="conditions/c3/on"]')?.value === 'floor|top');
  assert.match(await outstanding(), /1 missing/);
  // The outstanding line takes the user to the value.
  await page.locator('.outstanding summary').click();
  await page.locator('.outstanding button').first().click();
  assert.equal(await page.evaluate(() => document.activeElement.dataset.place), 'conditions/c3/values/temperature');
  // A model that is not ready does not run, and says why.
  await page.locator('#canvas').focus();
  await page.keyboard.press('Enter');
  await page.waitForFunction(() => /cannot run yet: the temperature in c3/.test(document.getElementById('said').textContent));
});

test('a sentence speaks of two surfaces, and of one again', async () => {
  await page.keyboard.press('Escape');
  const c3 = page.locator('[data-sentence="c3"]');
  await c3.locator('.patch-more summary').click();
  const also = c3.locator('[data-place="conditions/c3/on/also/new"]');
  await also.focus(); // its choices are fetched then
  await edited(page, () => also.selectOption({ label: 'left side of the pan floor' }));
  assert.match(await page.locator('[data-place="conditions/c3/on/also/0"]').inputValue(), /^floor\|left$/);
  await edited(page, () => c3.getByRole('button', { name: 'within a box' }).click());
  await put('conditions/c3/on/within/x/1', '0 mm');
  await put('conditions/c3/values/temperature', '60 °C');
  const doc = await (await page.request.get(`${page.url().split('?')[0].replace(/\/$/, '')}/file`)).json();
  assert.deepEqual(doc.conditions.find((c) => c.id === 'c3').on, { part: 'floor', side: 'top', also: [{ part: 'floor', side: 'left' }], within: [['', '0 mm'], ['', ''], ['', '']] });
  // On the drawing a surface is taken away and added.
  const box = await page.locator('#canvas').boundingBox();
  const spot = [box.x + box.width * 0.5, box.y + box.height * 0.36];
  await page.mouse.click(...spot);
  await edited(page, () => page.locator('#offer .also').getByRole('button', { name: 'not c3' }).click());
  assert.equal(await page.locator('[data-place="conditions/c3/on"]').inputValue(), 'floor|left');
  await page.mouse.move(5, 5);
  await page.mouse.click(...spot);
  await edited(page, () => page.locator('#offer .also').getByRole('button', { name: 'c3', exact: true }).click());
  assert.equal(await page.locator('[data-place="conditions/c3/on/also/0"]').inputValue(), 'floor|top');
  // Parts of a group fold away.
  const balloon = page.locator('.part[data-part="floor"] .balloon');
  if (await balloon.getAttribute('aria-expanded') !== 'true') await balloon.click();
  await put('parts/floor/group', 'pan');
  const head = page.locator('.group-head');
  assert.match(await head.innerText(), /pan 1 part/);
  await head.click();
  assert.equal(await page.locator('.part[data-part="floor"] .part-row').isVisible(), false);
  await head.click();
  assert.equal(await page.locator('.part[data-part="floor"] .part-row').isVisible(), true);
});

test('a model is removed from the shelf and put back', async () => {
  await page.goto(server.url);
  const card = page.locator('.card-model', { hasText: 'Bittern' }).or(page.locator('.card-model:has(input[value="Bittern pan post"])')).first();
  const before = await page.locator('.card-model').count();
  await card.getByRole('button', { name: 'remove' }).click();
  await page.getByText('“Bittern pan post” was taken off the shelf.').waitFor();
  assert.equal(await page.locator('.card-model').count(), before - 1);
  await page.getByRole('button', { name: 'Put it back' }).click();
  await page.waitForFunction((n) => document.querySelectorAll('.card-model').length === n, before);
});

test('a long run shows its progress and is stopped by its button', async () => {
  await page.getByRole('link', { name: 'open Pan floor heater' }).click();
  await drawn(page);
  await page.locator('.slip.ended').waitFor();
  await page.locator('[data-sentence="c3"]').hover();
  await page.locator('[data-remove="c3"]').click();
  await page.waitForFunction(() => !document.querySelector('[data-sentence="c3"]'));
  await put('mesh/size', '0.7 mm');
  await page.getByRole('button', { name: /^Run/ }).click();
  await page.waitForFunction(() => /\d cells, .* unknowns/.test(document.getElementById('run').innerText), null, { timeout: 240000 });
  await page.locator('#run').getByRole('button', { name: 'stop' }).click();
  await page.waitForFunction(() => /stopped/.test(document.getElementById('run').innerText), null, { timeout: 240000 });
  assert.match(await page.locator('#titleblock').innerText(), /#1 ·/, 'the last complete run stays');
});

test('fast typing: nothing that is typed is lost while answers come in', async () => {
  await page.locator('#part-brick .balloon').click();
  await page.locator('[data-place="parts/brick/outline/width"]').focus();
  for (const value of ['110 mm', '80 mm', '1.5 mm', '0 mm', '-1 mm', '10 mm + t']) {
    await page.keyboard.press('Control+a');
    await page.keyboard.type(value, { delay: 45 });
    await page.keyboard.press('Tab');
  }
  assert.equal(await page.evaluate(() => document.activeElement.dataset.place), 'parts/brick/place/x', 'the cursor goes on from field to field');
  const wanted = ['110 mm', '80 mm', '1.5 mm', '-1 mm', '10 mm + t'];
  let kept;
  for (let i = 0; i < 40 && JSON.stringify(kept) !== JSON.stringify(wanted); i++) {
    await page.waitForTimeout(150);
    const { outline, span } = (await (await page.request.get(`${page.url()}file`)).json()).parts[0];
    kept = [outline.width, outline.depth, outline.round, span.from, span.to];
  }
  assert.deepEqual(kept, wanted);
  await page.waitForTimeout(800);
  assert.equal(await page.locator('[data-place="parts/brick/span/to"]').inputValue(), '10 mm + t');
});

test('a value becomes a parameter in one gesture, and is put back', async () => {
  await page.locator('[data-place="parts/brick/outline/width"]').focus();
  await page.locator('#lift').click();
  await page.waitForFunction(() => document.activeElement.dataset.place === 'parameters/brick_width/name');
  assert.equal(await page.locator('[data-place="parts/brick/outline/width"]').inputValue(), 'brick_width');
  await page.locator('.parameters li', { has: page.locator('[data-place="parameters/brick_width/name"]') }).getByRole('button', { name: 'put back' }).click();
  await page.waitForFunction(() => document.querySelector('[data-place="parts/brick/outline/width"]').value === '110 mm');
});
