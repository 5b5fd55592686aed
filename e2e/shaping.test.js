// Shaping on the drawing: faces are drawn out, parts moved, measured, hidden; air round a
// device, a plane of symmetry, finer cells; the mesh is looked at; files come and go.

import assert from 'node:assert/strict';
import { readFile, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
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

const value = (place) => page.locator(`[data-place="${place}"]`).first().inputValue();

async function open(name) {
  await page.goto(server.url);
  await page.getByRole('link', { name: `open ${name}` }).click();
  await drawn(page);
}

/** Clicks at a place of the drawing, given as parts of its size. */
async function click(x, y) {
  const box = await page.locator('#canvas').boundingBox();
  await page.mouse.click(box.x + box.width * x, box.y + box.height * y);
}

async function dragHandle(number, dx, dy) {
  // Handles are drawn anew with the device: one may be gone when it is asked where it is.
  const reach = page.locator('.handle .reach').nth(number);
  let h = null;
  while (!h) {
    await reach.waitFor();
    h = await reach.boundingBox();
  }
  const x = h.x + h.width / 2, y = h.y + h.height / 2;
  await edited(page, async () => {
    await page.mouse.move(x, y);
    await page.mouse.down();
    await page.mouse.move(x + dx, y + dy, { steps: 5 });
    await page.mouse.up();
  });
}

test('a face is drawn out by its handle, and the parameter follows', async () => {
  await open('Pan floor heater');
  await click(0.47, 0.4);
  assert.match(await page.locator('#offer b').innerText(), /top of the pan floor/);
  await dragHandle(0, 0, -24);
  const dragged = parseFloat(await value('parameters/t/value'));
  assert.ok(dragged > 5 && dragged < 14, `t is ${dragged} mm`);
  await page.keyboard.press('Control+z');
  await page.waitForFunction(() => document.querySelector('[data-place="parameters/t/value"]').value === '5 mm');
  // The face stays chosen when the device is drawn anew, and its handle goes with it.
  const foot = () => page.evaluate(() => document.querySelector('.handle line')?.getAttribute('y1'));
  const before = await foot();
  assert.ok(before);
  await put(page, 'parameters/t/value', '9 mm');
  await page.waitForFunction((y) => document.querySelector('.handle line')?.getAttribute('y1') !== y, before);
  assert.ok(await foot(), 'the handle is still there');
  await page.locator('.handle').focus();
  await edited(page, () => page.keyboard.press('Control+z'));
  await page.waitForFunction(() => document.querySelector('[data-place="parameters/t/value"]').value === '5 mm');

  // By keyboard: the next side, its handle, a distance.
  await page.locator('#canvas').focus();
  await page.keyboard.press('.');
  await page.keyboard.press('.');
  assert.match(await page.locator('#under').innerText(), /chosen: heater rod/);
  await page.keyboard.press('Escape');
  await click(0.47, 0.4);
  await page.locator('.handle').first().focus();
  await page.keyboard.press('Enter');
  await page.locator('#distance').fill('2.5 mm');
  await edited(page, () => page.keyboard.press('Enter'));
  assert.equal(await value('parameters/t/value'), '7.5 mm');
});

test('a part is moved and turned, hidden and shown', async () => {
  await page.locator('#canvas').focus();
  await click(0.3, 0.54);
  const name = await page.locator('#offer b').innerText();
  await page.getByRole('button', { name: 'move it' }).click();
  assert.match(await page.locator('#under').innerText(), /chosen: /, name);
  await page.locator('.handle[aria-label="move along z"]').focus();
  // Whatever is drawn anew, the handle stays in focus: Enter would start a run otherwise.
  await page.setViewportSize({ width: 1180, height: 760 });
  await page.waitForFunction(() => document.getElementById('handles').viewBox.baseVal.width === document.getElementById('canvas').parentElement.clientWidth);
  await page.setViewportSize({ width: 1280, height: 800 });
  await page.waitForFunction(() => document.getElementById('handles').viewBox.baseVal.width === document.getElementById('canvas').parentElement.clientWidth);
  assert.equal(await page.evaluate(() => document.activeElement.getAttribute('aria-label')), 'move along z');
  await page.keyboard.press('Enter');
  await page.locator('#distance').fill('-3');
  await edited(page, () => page.keyboard.press('Enter'));
  await page.getByRole('button', { name: /hearth brick: show its dimensions/ }).click();
  assert.equal(await value('parts/brick/span/from'), '-3 mm');
  await page.getByRole('button', { name: /hearth brick: show its dimensions/ }).click();
  await page.locator('#canvas').focus();
  await page.keyboard.press('h');
  assert.match(await page.locator('#under').innerText(), /1 hidden/);
  await page.keyboard.press('a');
  assert.equal(await page.locator('#under').innerText(), '');

  // A frame round everything takes all parts in.
  const box = await page.locator('#canvas').boundingBox();
  await page.keyboard.down('Shift');
  await page.mouse.move(box.x + 20, box.y + 40);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width - 5, box.y + box.height - 60, { steps: 4 });
  await page.mouse.up();
  await page.keyboard.up('Shift');
  assert.match(await page.locator('#under').innerText(), /hearth brick.*pan floor/);
  await page.keyboard.press('Escape');
});

test('a distance is measured and is the parameter; another becomes one', async () => {
  await page.getByRole('button', { name: 'measure', exact: true }).click();
  await click(0.47, 0.4);
  await page.waitForFunction(() => /area/.test(document.getElementById('measured').innerText));
  await click(0.3, 0.54);
  await page.waitForFunction(() => /angle|distance/.test(document.getElementById('measured').innerText));
  await page.keyboard.press('Escape');
  assert.equal(await page.locator('#measured').isVisible(), false);
});

test('air, a plane of symmetry and finer cells, and a look at the mesh', async () => {
  // The post of the demo as a body in space.
  const buffer = await readFile(new URL('../examples/testdata/solid-post.kettle.json', import.meta.url));
  const answer = await page.request.post(`${server.url}models/import`, { multipart: { file: { name: 'post.kettle.json', mimeType: 'application/json', buffer } } });
  await page.goto(answer.url());
  await drawn(page);
  await page.getByText('+ part', { exact: true }).click();
  await edited(page, () => page.getByRole('button', { name: 'box round the others' }).click());
  await edited(page, () => page.getByRole('button', { name: 'cut at a plane' }).click());
  await put(page, 'mesh/size', '40 mm');
  await page.getByRole('button', { name: 'mesh', exact: true }).click();
  await page.waitForFunction(() => document.documentElement.dataset.meshed === 'yes' && /cells/.test(document.querySelector('.mesh-words').innerText));
  const cells = async () => parseInt((await page.locator('.mesh-words').innerText()).replace(/[^\d]*([\d\s\u202f]+) cells.*/s, '$1').replace(/\D/g, ''), 10);
  const coarse = await cells();
  await edited(page, () => page.getByRole('button', { name: '+ finer place' }).click());
  await page.locator('[data-place="mesh/near/1/on"]').focus();
  await edited(page, () => page.locator('[data-place="mesh/near/1/on"]').selectOption({ label: 'rim of the post' }));
  await put(page, 'mesh/near/1/size', '4 mm');
  await page.waitForFunction((n) => parseInt(document.querySelector('.mesh-words').innerText.split('cells')[0].replace(/\D/g, ''), 10) > n, coarse);
  await page.locator('[name="by"]').selectOption('quality');
  await page.locator('[name="cut-axis"]').selectOption('z');
  await page.locator('.mesh-panel summary').click();
  await page.waitForFunction(() => document.querySelectorAll('.mesh-worst li').length === 5);
  // A model that cannot be meshed says so, and where.
  await put(page, 'mesh/near/1/size', '0 mm');
  await page.waitForFunction(() => /there is no mesh yet/i.test(document.querySelector('.mesh-words').innerText));
  await put(page, 'mesh/near/1/size', '4 mm');

  // One that takes long tells how far it is and can be stopped; then nothing of it is waited for.
  await page.waitForFunction(() => /cells/.test(document.querySelector('.mesh-words').innerText));
  await page.route(/\/mesh\/progress$/, (route) => route.fulfill({ body: '12 000 triangles so far' }));
  await page.route(/\/mesh(\?.*)?$/, async (route) => {
    await new Promise((go) => setTimeout(go, 3000));
    await route.continue().catch(() => {});
  });
  await put(page, 'mesh/near/1/size', '3 mm');
  await page.waitForFunction(() => /12 000 triangles/.test(document.querySelector('.mesh-words').innerText));
  await page.getByRole('button', { name: 'stop', exact: true }).click();
  await page.waitForFunction(() => /not made to its end/.test(document.querySelector('.mesh-words').innerText));
  assert.equal(await page.locator('.mesh-stop').isVisible(), false);
  await page.unrouteAll({ behavior: 'ignoreErrors' });
  await page.getByRole('button', { name: 'shaded', exact: true }).click();
  await page.getByRole('button', { name: 'mesh', exact: true }).click();
  await page.waitForFunction(() => /cells/.test(document.querySelector('.mesh-words').innerText));
  assert.deepEqual(faults.filter((f) => !/status of 422/.test(f)), []);
});

test('a STEP file becomes parts; one that is none says so', async () => {
  await page.goto(server.url);
  await page.getByPlaceholder('name of the device').fill('Foot of a rack');
  await page.getByRole('button', { name: 'Begin' }).click();
  await drawn(page);
  const file = page.locator('#trace input[type="file"]');
  await page.getByText('+ part', { exact: true }).click();
  await file.setInputFiles({ name: 'note.stp', mimeType: 'text/plain', buffer: Buffer.from('no STEP at all') });
  await page.waitForFunction(() => /note\.stp: it is no STEP file that can be read/.test(document.querySelector('#said').textContent));
  await file.setInputFiles(new URL('fixtures/rack-foot.step', import.meta.url).pathname);
  await page.waitForFunction(() => document.querySelectorAll('.part').length === 2);
  assert.match(await page.locator('#said').innerText(), /Drawn: 2 parts/);
  const names = page.locator('.name-cell input');
  assert.deepEqual([await names.nth(0).inputValue(), await names.nth(1).inputValue()], ['rack foot', 'peg']);
  const first = page.locator('.part').first();
  assert.match(await first.locator('.size').innerText(), /40\s*×\s*30\s*×\s*20/);
  // The peg is a disc again: its circle was drawn as chords.
  const drawing = await (await fetch(`${page.url()}file`)).json();
  assert.equal(drawing.parts[1].outline.kind, 'disc');
  assert.equal(drawing.parts[1].outline.diameter, '4 mm');
  assert.deepEqual([drawing.parts[1].place.x, drawing.parts[1].place.y], ['28 mm', '3 mm']);
});

test('a device leaves as STL and comes back as a stack of outlines', async () => {
  await open('Grate bar');
  await page.getByText('files', { exact: true }).click();
  const [file] = await Promise.all([page.waitForEvent('download'), page.getByRole('link', { name: 'device, STL' }).click()]);
  const path = join(tmpdir(), 'grate-bar.stl');
  await writeFile(path, await readFile(await file.path()));
  await page.goto(server.url);
  await page.getByPlaceholder('name of the device').fill('Grate bar again');
  await page.getByRole('button', { name: 'Begin' }).click();
  await drawn(page);
  await page.getByText('+ part', { exact: true }).click();
  await page.locator('#trace select').selectOption('mm');
  await page.locator('#trace input[type="file"]').setInputFiles(path);
  await page.waitForFunction(() => document.querySelectorAll('.part').length >= 2);
  assert.doesNotMatch(await page.locator('#said').innerText(), /bricks/);
  // That a wrong model has no mesh is an answer, and no fault of the page.
  assert.deepEqual(faults.filter((f) => !/status of 422/.test(f)), []);
});
