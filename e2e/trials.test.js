// Trials: a set is put together, made, stopped, read and put on the sheet; the front of a pan floor is found, and what a passage of the
// preheater passes is handed over as a unit for co-simulation.

import assert from 'node:assert/strict';
import { readFile } from 'node:fs/promises';
import { after, before, test } from 'node:test';
import { base, drawn, edited, ended, open, put, stage, startBrowser, startServer } from './browser.js';

const at = stage({ after, before });

/** Waits until the trials of the set are done, and what the surfaces tell is shown. */
async function told(page, words) {
  await page.waitForFunction((w) => document.querySelector('.series-words')?.innerText.includes(w), words, { timeout: 900000 });
  await page.waitForFunction(() => document.querySelector('#insight table') && document.querySelector('.predicted .value')?.textContent, null, { timeout: 300000 });
}

/** Goes to a trial set of the model that is open. */
async function trials(page, set) {
  await page.goto(`${base(page)}trials?set=${set}`);
  await drawn(page);
}

test('the thinnest floor that is even enough', async () => {
  const { page } = at;
  await open(at, 'Pan floor heater');
  await ended(page);
  await put(page, 'mesh/size', '8 mm');
  await page.keyboard.press('Escape');
  await page.locator('body').click({ position: { x: 5, y: 5 } });
  await page.keyboard.press('3');
  await page.waitForURL(/trials/);
  await drawn(page);

  // A set of its own over one parameter, in the range of its bounds, with a limit.
  await edited(page, () => page.getByRole('button', { name: '+ trial set' }).click());
  await page.waitForFunction(() => new URLSearchParams(location.search).get('set') === 't3' && !document.querySelector('[aria-busy]'));
  await page.getByText('+ parameter', { exact: true }).click();
  // A menu stays open when news of the server come in.
  await page.evaluate(() => htmx.ajax('GET', location.href, { source: '#trials', target: '#trials', swap: 'morph:innerHTML' }));
  await edited(page, () => page.locator('.menu-sheet button', { hasText: /^t$/ }).click());
  await put(page, 'trials/t3/vary/1/from', '5 mm');
  await put(page, 'trials/t3/vary/1/count', '3');
  await put(page, 'trials/t3/goals/1/reading', 'r5');
  await edited(page, () => page.getByRole('button', { name: '+ limit' }).click());
  await put(page, 'trials/t3/limits/1/reading', 'r1');
  await put(page, 'trials/t3/limits/1/value', '20 K');
  // What is planned stands in the table: two are chosen, the third is made later.
  assert.equal(await page.locator('.trials-table tbody tr').count(), 3);
  for (const i of [0, 2]) await page.locator('.trials-table .choose').nth(i).check();
  await page.getByRole('button', { name: 'make the chosen' }).click();
  await page.waitForFunction(() => /2 of 3 done/.test(document.body.innerText), null, { timeout: 900000 });
  await page.getByRole('button', { name: 'make the 1 that are left' }).click();
  await told(page, '3 of 3 done');
  assert.match(await page.locator('#trials-brief').innerText(), /Best: trial \d: t \d.*mm, mass of floor/);

  // The best one is marked; leaving it out makes another one the best.
  const best = await page.locator('.trials-table tr.chosen').getAttribute('data-trial');
  await page.locator(`.trials-table tr[data-trial="${best}"] .fig`).first().click();
  assert.match(await page.locator('#trial-slip').innerText(), new RegExp(`Trial ${Number(best) + 1} · t`));
  await page.getByRole('button', { name: 'leave it out' }).click();
  await page.waitForFunction((b) => document.querySelector('.trials-table tr.chosen')?.dataset.trial !== b, best);
  assert.match(await page.locator(`.trials-table tr[data-trial="${best}"]`).innerText(), /left out by hand/);

  // A value by hand takes its place with the reason; the computed one stays beside it.
  await page.getByRole('button', { name: 'set a value by hand' }).click();
  await page.locator('.by-hand [name="value"]').fill('7 K');
  await page.locator('.by-hand [name="reason"]').fill('measured on the bench');
  await page.locator('.by-hand button').click();
  await page.waitForFunction(() => document.querySelector('.trials-table [title*="measured on the bench; "]'));

  await page.locator('.trials-table tr.chosen .fig').first().click();
  await page.locator('#trial-slip').getByRole('button', { name: 'put it on the sheet' }).click();
  await page.waitForURL(/models\/\d+\/$/);
  await drawn(page);
  assert.match(await page.locator('[data-place="parameters/t/value"]').inputValue(), /^(8\.5|12) mm$/);
});

test('the front of a pan floor: seen in several ways, filtered, searched for, and its fields in plates', async () => {
  const { page, faults } = at;
  await open(at, 'Pan floor heater');
  await put(page, 'mesh/size', '8 mm');
  await trials(page, 't2');
  await put(page, 'trials/t2/pattern', 'sobol');
  await put(page, 'trials/t2/runs', '14');
  await put(page, 'trials/t2/search/most', '2').catch(() => {}); // is there when trials are made
  await edited(page, () => page.getByLabel('keep the fields').check());
  await page.getByRole('button', { name: 'Make the trials' }).click();
  await told(page, '14 of 14 done');
  // Goals are the axes, the limit and the front are seen.
  assert.equal(await page.locator('[data-view="across"]').inputValue(), 'r5');
  assert.equal(await page.locator('[data-view="up"]').inputValue(), 'r1');
  assert.equal(await page.locator('.point').count(), 14);
  assert.match(await page.locator('#trials-brief').innerText(), /trials are on the front: none beats them/);
  assert.ok(await page.locator('.stairs path').count());
  assert.match(await page.locator('#insight').innerText(), /pitch does not matter for mass of floor/);

  // The table: sorted, filtered, a column hidden, a trial marked.
  await page.locator('.trials-table th[data-key="r5"] button').click();
  const masses = await page.locator('.trials-table tbody tr').evaluateAll((rows) => rows.map((r) => Number(r.children[9].dataset.value)));
  assert.deepEqual(masses, [...masses].sort((a, b) => a - b));
  await page.locator('#trial-filter').fill('t < 6');
  await page.waitForFunction(() => /of 14 shown/.test(document.getElementById('chosen-words').innerText));
  const thick = await page.locator('.trials-table tbody tr:not([hidden])').evaluateAll((rows) => rows.map((r) => Number(r.children[3].dataset.value)));
  assert.ok(thick.length > 2 && thick.every((t) => t < 6));
  await page.locator('#trial-filter').fill('');
  await page.getByText('columns', { exact: true }).click();
  await page.locator('[data-column="r4"]').uncheck();
  assert.ok(await page.locator('.trials-table th[data-key="r4"]').isHidden());
  await page.locator('.trials-table .choose').first().check();
  await page.getByRole('button', { name: 'mark', exact: true }).click();
  await page.waitForFunction(() => document.querySelector('.trials-table [title="marked"]'));
  await page.getByRole('button', { name: 'choose the marked' }).click();
  assert.equal(await page.locator('.trials-table .choose:checked').count(), 1);

  // All side by side, where a brush keeps some.
  await page.locator('[data-view="show"]').selectOption('axes');
  await page.waitForFunction(() => document.querySelectorAll('.parallel path').length === 14);
  const box = await page.locator('.parallel .hit').nth(2).boundingBox();
  await page.mouse.move(box.x + 12, box.y + 6);
  await page.mouse.down();
  await page.mouse.move(box.x + 12, box.y + 0.2 * box.height, { steps: 4 });
  await page.mouse.up();
  const kept = await page.locator('.trials-table tbody tr:not([hidden])').count();
  assert.ok(kept > 0 && kept < 14, `${kept} trials have 7 rods`);

  // Predicted against computed, and a surface; the sliders move what is predicted.
  await page.locator('[data-view="show"]').selectOption('fit');
  await page.waitForFunction(() => document.querySelectorAll('.whisker').length === 14);
  await page.locator('[data-view="show"]').selectOption('surface');
  await page.waitForFunction(() => document.querySelector('canvas.relief'));
  const before = await page.locator('.predicted tr[data-reading="r1"] .value').innerText();
  await page.locator('.sliders input').first().fill('8');
  await page.waitForFunction((b) => document.querySelector('.predicted tr[data-reading="r1"] .value').textContent !== b, before);
  assert.match(await page.locator('.predicted tr[data-reading="r1"] .value').innerText(), /±.*\sK$/);
  await page.getByRole('button', { name: 'Make this trial' }).click();
  await told(page, '15 of 15 done');
  assert.match(await page.locator('.proposals').innerText(), /asked for; unevenness of floor .* predicted, .*off by/s);

  // Plates show any trial, and lead to the next.
  await page.locator('[data-view="show"]').selectOption('');
  await page.waitForFunction(() => document.querySelectorAll('.point').length === 15);
  await page.locator('.trials-table tr[data-trial="0"] .fig').first().click();
  await page.getByRole('link', { name: 'show its plates' }).click();
  await drawn(page);
  assert.match(await page.locator('.trial-steps').innerText(), /trial 1 pitch/i);
  await page.getByRole('link', { name: 'the next →' }).click();
  await drawn(page);
  assert.match(await page.locator('.trial-steps').innerText(), /trial 2 /i);
  assert.deepEqual(faults, []);
});

test('what a passage of the preheater passes, as a unit for co-simulation; the wall does not matter', async () => {
  const { page, faults } = at;
  await open(at, 'Rib passage');
  await put(page, 'mesh/size', '3 mm');
  await put(page, 'mesh/across', '2');
  await trials(page, 't2');
  await put(page, 'trials/t2/runs', '10');
  await page.getByRole('button', { name: 'Make the trials' }).click();
  await told(page, '10 of 10 done');
  assert.match(await page.locator('#insight').innerText(), /wall does not matter for .*mean coefficient/);
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('link', { name: 'unit for co-simulation, FMI 3.0' }).click()]);
  assert.equal(download.suggestedFilename(), 'Rib_passage.fmu');
  const zip = await readFile(await download.path());
  assert.ok(zip.includes('modelDescription.xml') && zip.includes('binaries/x86_64-linux/Rib_passage.so') && zip.includes('sources/surface.c'));
  await page.goto(`${base(page)}report`);
  assert.match(await page.locator('#report').innerText(), /coefficient by gap, speed and wall.*10 of 10 trials made/s);
  assert.deepEqual(faults, []);
});

test('a set that cannot run says why, and takes a table in', async () => {
  const { page, faults } = at;
  await open(at, 'Dew sampler');
  await trials(page, 't1');
  await put(page, 'trials/t1/vary/1/to', '9 A');
  assert.match(await page.locator('#trials-brief').innerText(), /beyond its greatest value, 6 A/);
  assert.equal(await page.getByRole('button', { name: 'Make the trials' }).count(), 0);
  await put(page, 'trials/t1/vary/1/to', '6 A');
  assert.match(await page.locator('#trials-brief').innerText(), /: 11 trials/);

  // A value of the sheet is made to vary from here.
  await page.getByText('+ parameter', { exact: true }).click();
  const select = page.getByLabel('value of the sheet that is to vary');
  const value = await select.locator('option', { hasText: /^.*: 240 W/ }).getAttribute('value');
  await edited(page, () => select.selectOption(value));
  assert.equal(await page.locator('[data-place="trials/t1/vary/2/from"]').inputValue(), '192 W/(m²·K)');

  await page.getByText('table', { exact: true }).click();
  await page.getByLabel('table of trials', { exact: true }).fill('current (A),note\n1.5,a\n2.5,b\n4,c\n');
  await page.getByRole('button', { name: 'take it as the trials' }).click();
  await page.waitForFunction(() => document.querySelector('[data-place="trials/t1/vary/1/listed"]')?.value === '1.5 A; 2.5 A; 4 A');
  assert.equal(await page.locator('.trials-table tbody tr').count(), 3);
  assert.deepEqual(faults, []);
});

test('a server that is killed loses no finished trial', async () => {
  const own = await startServer();
  const { browser, page } = await startBrowser();
  try {
    await page.goto(own.url);
    await page.getByRole('link', { name: 'open Pan floor heater' }).click();
    await drawn(page);
    await put(page, 'mesh/size', '6 mm');
    await trials(page, 't1');
    await page.getByRole('button', { name: 'Make the trials' }).click();
    const made = () => page.locator('.trials-table tr[data-made="true"]').evaluateAll((rows) => rows.map((r) => r.innerText));
    await page.waitForFunction(() => document.querySelectorAll('.trials-table tr[data-made="true"]').length > 3, null, { timeout: 900000 });
    const before = await made(), address = new URL(page.url());
    await own.stop('SIGKILL');
    const again = await startServer({ data: own.data });
    try {
      await page.goto(`${again.url.replace(/\/$/, '')}${address.pathname}${address.search}`);
      await drawn(page);
      const after = await made();
      for (const row of before) assert.ok(after.includes(row), `${row} was lost`);
      await page.waitForFunction(() => /25 of 25 done/.test(document.body.innerText), null, { timeout: 900000 });
    } finally {
      await again.stop();
    }
  } finally {
    await browser.close();
  }
});
