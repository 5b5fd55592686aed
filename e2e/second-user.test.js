// Two windows on one model, a model that is wrong, and pages of several widths.

import assert from 'node:assert/strict';
import { after, before, test } from 'node:test';
import { drawn, edited, put, startBrowser, startServer } from './browser.js';

let server, browser, context, page, faults, sheet;

before(async () => {
  server = await startServer();
  ({ browser, context, page, faults } = await startBrowser());
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

test('an edit in one window appears in the other, and so does the end of a run', async () => {
  const other = await context.newPage();
  await other.goto(sheet);
  await drawn(other);
  await put(other, 'parameters/t/value', '7 mm');
  await page.waitForFunction(() => document.querySelector('[data-place="parameters/t/value"]').value === '7 mm');
  await other.getByRole('button', { name: /^Run/ }).click();
  await page.waitForFunction(() => /#2 ·/.test(document.getElementById('titleblock').innerText), null, { timeout: 240000 });
  await page.locator('[data-sentence="r5"] .amount:not(.stale)').waitFor();
  assert.match(await page.locator('[data-sentence="r5"] .amount').innerText(), /414\.\d g/);
  await other.close();
});

test('a value that was changed elsewhere while one was in it is asked about, and nothing is lost', async () => {
  const other = await context.newPage();
  await other.goto(sheet);
  await drawn(other);
  const field = page.locator('[data-place="parts/floor/span/from"]').first();
  await page.getByRole('button', { name: /pan floor: show its dimensions/ }).click();
  await field.focus();
  await other.getByRole('button', { name: /pan floor: show its dimensions/ }).click();
  await put(other, 'parts/floor/span/from', '13.5 mm');
  await page.locator('#said', { hasText: 'Changed in another window' }).waitFor();
  assert.equal(await field.inputValue(), '14 mm', 'what one is in stays');
  await field.fill('15 mm');
  await field.press('Enter');
  const dialog = page.locator('#clash');
  await dialog.waitFor();
  assert.match(await dialog.innerText(), /when you saw it\s+14 mm\s+now\s+13.5 mm\s+yours\s+15 mm/);
  await page.keyboard.press('Escape');
  await page.waitForFunction(() => document.querySelector('[data-place="parts/floor/span/from"]').value === '13.5 mm');
  // Said once more, mine stands, also in the other window.
  await field.focus();
  await put(other, 'parts/floor/span/from', '13.6 mm');
  await page.locator('#said', { hasText: '13.6 mm' }).waitFor();
  await field.fill('14 mm');
  await field.press('Enter');
  await dialog.waitFor();
  await page.getByRole('button', { name: 'Put mine in its place' }).click();
  await other.waitForFunction(() => document.querySelector('[data-place="parts/floor/span/from"]').value === '14 mm');
  // Left as it was, a field shows what is there now.
  await field.focus();
  await put(other, 'parts/floor/span/from', '14.5 mm');
  await page.locator('#said', { hasText: '14.5 mm' }).waitFor();
  await field.press('Tab');
  await page.waitForFunction(() => document.querySelector('[data-place="parts/floor/span/from"]').value === '14.5 mm');
  // An undo of what another window did says so.
  await edited(page, () => page.locator('#undo').click());
  await page.locator('#said', { hasText: 'had been made in another window' }).waitFor();
  // One after the other, quickly, the own edits of a window never clash.
  await field.fill('14.2 mm');
  await field.press('Enter');
  await field.fill('14 mm');
  await field.press('Enter');
  await page.waitForFunction(() => !document.querySelector('[aria-busy]'));
  assert.equal(await dialog.isVisible(), false);
  assert.equal(await field.inputValue(), '14 mm');
  assert.equal(faults.splice(0).filter((f) => !/409/.test(f)).length, 0);
  await other.close();
});

test('what was removed elsewhere cannot be edited, and the answer says so', async () => {
  const ask = (path, form) => page.request.post(sheet + path, { form, headers: { 'HX-Request': 'true' } });
  await ask('edit?op=remove-sentence&section=conditions&id=c2', {});
  const answer = await ask('edit?op=set&place=conditions/c2/values/medium', { value: 'oil' });
  assert.equal(answer.status(), 409);
  assert.match(await answer.text(), /no longer there; it may have been removed in another window/);
  await ask('undo', {});
});

test('a part is added, repeated, moved in the order and taken away again', async () => {
  await page.goto(sheet);
  await drawn(page);
  const click = (locator) => edited(page, () => locator.click());
  await page.getByText('+ part', { exact: true }).click();
  await click(page.getByRole('button', { name: 'disc with a span in z' }));
  await put(page, 'parts/p1/name', 'stud');
  await put(page, 'parts/p1/material', 'iron');
  await put(page, 'parts/p1/outline/diameter', '8 mm');
  await put(page, 'parts/p1/span/from', '14 mm + t');
  await put(page, 'parts/p1/span/to', '20 mm + t');
  await click(page.locator('#part-p1').getByRole('button', { name: 'make an array' }));
  await put(page, 'parts/p1/array/count', '3');
  await put(page, 'parts/p1/array/pitch', '30 mm');
  assert.match(await page.locator('#titleblock .tb.full').innerText(), /Nothing missing/);
  const scene = await (await page.request.get(`${sheet}drawing`)).json();
  const stud = scene.parts.find((p) => p.id === 'p1');
  assert.deepEqual([stud.copies.length, stud.number], [3, 5]);
  assert.ok(Math.abs(stud.copies[2].loops[0].points[0][0] - 0.034) < 1e-9, 'the third stud lies 30 mm to the right of the middle');
  await click(page.locator('#part-p1').getByRole('button', { name: 'earlier' }));
  assert.deepEqual(await page.locator('.part').evaluateAll((list) => list.map((p) => p.dataset.part)), ['brick', 'rod', 'floor', 'p1', 'wall']);
  await click(page.locator('#part-p1').getByRole('button', { name: 'remove' }));
  assert.equal(await page.locator('.part').count(), 4);
});

test('after many edits the brief is what a fresh page shows', async () => {
  await page.goto(sheet);
  await drawn(page);
  const click = (locator) => edited(page, () => locator.click());
  const menu = async (name, entry) => {
    await page.getByText(name, { exact: true }).click();
    await click(page.locator('details[open] .menu-sheet').getByRole('button', { name: entry, exact: true }));
  };
  const began = await page.locator('#revision').getAttribute('data-head');
  let partial = 0;
  page.on('response', (r) => { if (r.headers()['hx-reswap'] === 'none') partial++; });
  await menu('+ part', 'rectangle with a span in z');
  await put(page, 'parts/p1/name', 'lid');
  await click(page.getByRole('button', { name: '+ parameter' }));
  await put(page, 'parameters/a1/name', 'lip');
  await put(page, 'parameters/lip/value', '3 mm');
  await put(page, 'parts/p1/outline/width', '4*lip');
  await menu('+ condition', 'temperature held');
  await put(page, 'conditions/c3/on', 'brick|bottom');
  await put(page, 'conditions/c3/values/temperature', '30 °C');
  await menu('+ reading', 'greatest temperature');
  await click(page.getByRole('button', { name: '+ finer place' }));
  await click(page.getByText('cut at a plane'));
  await page.getByRole('button', { name: /hearth brick: show its dimensions/ }).click();
  await put(page, 'parts/brick/span/from', '1 mm');
  await page.locator('#s-c1').hover();
  await click(page.locator('[aria-label="remove c1"]'));
  await click(page.locator('#undo'));
  await click(page.locator('#undo'));
  await page.locator('#parts-foot .cut').hover();
  await click(page.locator('[aria-label="take cut 1 back"]'));
  await put(page, 'mesh/order', '2');
  // Words and values as they are read, whatever is open, filled or in focus.
  const read = () => page.evaluate(() => {
    const copy = document.getElementById('brief').cloneNode(true);
    copy.querySelectorAll('.part-more, datalist').forEach((el) => el.replaceChildren());
    copy.querySelectorAll('select[id]').forEach((el) => el.replaceWith(`[${document.getElementById(el.id).selectedOptions[0]?.text}]`));
    copy.querySelectorAll('input, textarea').forEach((el) => el.id && el.replaceWith(`[${document.getElementById(el.id).value} ${document.getElementById(el.id).className}]`));
    return copy.textContent.replace(/\s+/g, ' ') + document.getElementById('titleblock').innerText;
  });
  const now = await read();
  assert.ok(partial > 10, `${partial} answers carried what differs alone`);
  await page.reload();
  await drawn(page);
  assert.equal(now, await read());
  await page.request.post(`${sheet}revisions/${began}`);
  await page.reload();
  await drawn(page);
});

test('the name in the title block and the unit of a reading are edited in place', async () => {
  await edited(page, async () => {
    await page.locator('.title-name [data-place="name"]').fill('Pan floor, west');
    await page.locator('.title-name [data-place="name"]').press('Enter');
  });
  await page.waitForFunction(() => document.getElementById('model-name').textContent === 'Pan floor, west');
  await page.locator('[data-open-reading="r2"]').click();
  await put(page, 'readings/r2/unit', '°F');
  await page.waitForFunction(() => /°F/.test(document.querySelector('[data-sentence="r2"] .amount').textContent));
  const fahrenheit = parseFloat(await page.locator('[data-sentence="r2"] .amount').innerText());
  assert.ok(fahrenheit > 300 && fahrenheit < 340, `${fahrenheit} °F`);
});

test('a model without a way out for heat fails in words', async () => {
  await page.locator('#part-floor .balloon').click();
  await put(page, 'parts/floor/span/from', '14.5 mm');
  await page.getByRole('button', { name: /^Run/ }).click();
  await page.locator('.slip .bad').waitFor({ timeout: 240000 });
  assert.match(await page.locator('.slip').innerText(), /failed: heat has no way out of the hearth brick, the heater rod/);
  await put(page, 'parts/floor/span/from', '14 mm');
});

test('pages fit from 1024 to 2560 pixels', async () => {
  for (const [width, height] of [[1024, 768], [1280, 800], [1920, 1080], [2560, 1300]]) {
    await page.setViewportSize({ width, height });
    for (const path of ['', 'plates', 'revisions']) {
      await page.goto(sheet + path);
      if (path !== 'revisions') await drawn(page);
      const wide = await page.evaluate(() => document.documentElement.scrollWidth - document.documentElement.clientWidth);
      assert.equal(wide, 0, `${path || 'sheet'} at ${width} is ${wide} px too wide`);
      if (path === '') {
        const cut = await page.locator('.titleblock .tb').evaluateAll((list) => list.filter((e) => e.scrollWidth > e.clientWidth + 1).map((e) => e.innerText));
        assert.deepEqual(cut, [], `cut text in the title block at ${width}`);
      }
    }
  }
  assert.deepEqual(faults, []);
});
