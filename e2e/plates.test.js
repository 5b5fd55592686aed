// What plates show: streams, slices moved by handles, two runs together, and the report.

import assert from 'node:assert/strict';
import { after, before, test } from 'node:test';
import { changed, drawn, put, startBrowser, startServer } from './browser.js';

let server, browser, page, faults, base;

before(async () => {
  server = await startServer();
  ({ browser, page, faults } = await startBrowser());
  await page.goto(server.url);
  await page.getByRole('link', { name: 'open Pan floor heater' }).click();
  await drawn(page);
  await page.waitForFunction(() => document.querySelector('.slip.ended'), null, { timeout: 300000 });
  base = page.url().split('?')[0];
});

after(async () => {
  await browser?.close();
  await server?.stop();
});

const reloaded = async (act) => {
  await page.evaluate(() => { document.documentElement.dataset.drawn = 'before'; });
  await act();
  await drawn(page);
};

/** The drawing, to be compared with that of another moment. */
const picture = () => page.evaluate(() => document.getElementById('canvas').toDataURL());

test('streams of the heat flux begin everywhere, in a part and on a line', async () => {
  await page.goto(`${base}plates`);
  await drawn(page);
  const bare = await picture();
  const asked = page.waitForResponse((r) => r.url().includes('/streams?') && r.status() === 200);
  await reloaded(() => page.getByRole('button', { name: '+ streams of the heat flux' }).click());
  const data = await (await asked).body();
  const header = JSON.parse(data.subarray(4, 4 + data.readUInt32LE(0)).toString());
  assert.ok(header.counts.length > 30, `${header.counts.length} streams`);
  await changed(picture, bare);
  const from = page.locator('[data-place="plates/I/streams/1/from"]');
  const inRod = page.waitForResponse((r) => /streams\?.*part=1/.test(r.url()));
  await reloaded(() => from.selectOption({ label: 'in the heater rod' }));
  assert.equal((await inRod).status(), 200);
  await page.getByRole('button', { name: 'let particles run along them' }).click();
  await changed(picture, await changed(picture, await picture())); // they move
  // A number that is none is said at its place, and nothing else is lost.
  const count = page.locator('[data-place="plates/I/streams/1/count"]');
  await reloaded(async () => { await count.fill('many'); await count.press('Tab'); });
  assert.equal(await count.getAttribute('aria-invalid'), 'true');
  await reloaded(() => page.getByRole('button', { name: 'take streams 1 away' }).click());
  assert.deepEqual(faults, []);
});

test('a slice is moved by its handle and on a slant, with arrows on it, bands and a probe', async () => {
  await reloaded(() => page.getByRole('button', { name: 'add a slice across x' }).click());
  const at = page.locator('[data-place="plates/I/slices/1/at"]');
  const before = await at.inputValue();
  const handle = page.locator('[data-cut="0"] circle');
  const box = await handle.boundingBox();
  await page.mouse.move(box.x + 6, box.y + 6);
  await page.mouse.down();
  await page.mouse.move(box.x - 30, box.y - 14, { steps: 4 });
  await reloaded(() => page.mouse.up());
  assert.notEqual(await at.inputValue(), before);
  const across = page.locator('[data-place="plates/I/slices/1/across"]');
  const cut = page.waitForResponse((r) => r.url().includes('/slice?') && r.status() === 200);
  await reloaded(async () => { await across.fill('1, 1, 0'); await across.press('Tab'); });
  assert.match((await cut).url(), /normal=0\.70/);
  await reloaded(async () => { await across.fill('up'); await across.press('Tab'); });
  assert.match(await across.getAttribute('title'), /a slice is across x or y or z/);
  await reloaded(async () => { await across.fill('y'); await across.press('Tab'); });
  await reloaded(() => page.getByRole('button', { name: '+ arrows' }).click());
  await reloaded(() => page.locator('[data-place="plates/I/arrows/1/on"]').selectOption('slices'));
  const bands = page.locator('[data-place="plates/I/bands"]');
  await reloaded(async () => { await bands.fill('6'); await bands.press('Tab'); });
  assert.equal(await page.locator('#bar rect').count(), 7, 'six bands and their frame');
  await reloaded(() => page.locator('#add-probe').click());
  await page.waitForFunction(() => /^\d[\d.]* °C$/.test(document.querySelector('[data-probe] output').textContent));
  assert.deepEqual(faults, []);
});

test('a plate shows a formula of its own, on the surface, on a slice and along a line', async () => {
  const field = page.locator('[data-place="plates/I/field"]');
  await reloaded(async () => { await field.fill('(temperature - 72 °C)*850 W/(m²·K)'); await field.press('Tab'); });
  assert.match(await page.locator('#bar').textContent(), /f, W\/m²/);
  assert.match(await page.locator('#titleblock').innerText(), /HIGHEST\s+[\d.]+/i);
  await page.waitForFunction(() => /W\/m²$/.test(document.querySelector('[data-probe] output').textContent));
  await reloaded(() => page.locator('#add-line').click());
  await page.waitForFunction(() => document.documentElement.dataset.lines === 'yes');
  assert.equal(await page.locator('.line .u-over').count(), 1);
  await reloaded(async () => { await field.fill('speed*2'); await field.press('Tab'); });
  assert.match(await field.getAttribute('title'), /a plate cannot show "speed\*2"/);
  await reloaded(async () => { await field.fill('heat flow density'); await field.press('Tab'); });
  assert.match(await page.locator('#bar').textContent(), /q, W\/m²/);
  await reloaded(async () => { await field.fill('Temperature'); await field.press('Tab'); });
  assert.match(await page.locator('#bar').textContent(), /T, °C/);
  assert.deepEqual(faults, []);
});

test('two runs stand beside each other, under a slider and as their difference', async () => {
  await page.goto(base);
  await drawn(page);
  await put(page, 'parameters/t/value', '8 mm');
  await page.getByRole('button', { name: /^Run/ }).click();
  await page.waitForFunction(() => document.getElementById('run').innerText.includes('Run #2') && document.querySelector('.slip.ended'), null, { timeout: 300000 });
  await page.goto(`${base}plates`);
  await drawn(page);
  await page.getByLabel('note about run 1').fill('as built');
  const noted = page.waitForResponse((r) => r.url().endsWith('/note'));
  await page.keyboard.press('Tab');
  assert.equal((await noted).status(), 204);
  const kept = page.waitForResponse((r) => r.url().endsWith('/keep'));
  await page.getByLabel('keep the fields of run 1').check();
  assert.equal((await kept).status(), 204);
  const beside = page.getByLabel('run to compare with'), how = page.getByLabel('how two runs are compared');
  await reloaded(() => beside.selectOption({ label: 'run #1' }));
  assert.equal(await page.locator('#view-beside canvas').count(), 1);
  assert.equal(await page.getByLabel('note about run 1').inputValue(), 'as built');
  assert.ok(await page.getByLabel('keep the fields of run 1').isChecked());
  const other = () => page.evaluate(() => document.querySelector('#view-beside canvas').toDataURL());
  const still = await other();
  await page.locator('#canvas').focus();
  await page.keyboard.press('ArrowLeft');
  await changed(other, still); // both turn together
  await reloaded(() => how.selectOption('slider'));
  await page.locator('#wipe').fill('200');
  assert.match(await page.locator('#view-beside').getAttribute('style'), /20%/);
  await reloaded(() => how.selectOption('difference'));
  const text = await page.locator('#bar').textContent();
  assert.match(text, /ΔT, K/);
  assert.match(await page.locator('#titleblock').innerText(), /what run #2 has more than run #1/i);
  await page.goto(`${page.url().split('?')[0]}?run=2&beside=7`);
  assert.match(await page.locator('main').innerText(), /Not here|result of run #7/);
  assert.equal(faults.splice(0).filter((f) => !/404/.test(f)).length, 0);
});

test('the report is one page to print, with what was said, read and seen', async () => {
  await page.goto(`${base}plates`);
  await drawn(page);
  await page.keyboard.press('4');
  await page.waitForURL(/report/);
  await page.waitForFunction(() => document.documentElement.dataset.drawn === 'yes');
  const text = await page.locator('#report').innerText();
  for (const words of [/Hold the top of the pan floor/, /gives heat to brine at 72 °C/, /Every other surface lets no heat through/, /21\.15|unevenness of floor/, /closed to round-off/, /Cells of about 1\.8 mm/, /Highest .* °C in the heater rod/]) assert.match(text, words);
  assert.equal(await page.locator('.report-picture img').count(), await page.locator('.report-picture').count());
  const pdf = await page.pdf({ preferCSSPageSize: true });
  assert.equal(pdf.subarray(0, 5).toString(), '%PDF-');
  assert.ok(pdf.length > 50000);
  await page.goto(`${page.url()}?run=1`);
  await page.waitForFunction(() => document.documentElement.dataset.drawn === 'yes');
  assert.match(await page.locator('.report-head').innerText(), /#1, settled/);
  assert.deepEqual(faults, []);
});

test('what a sentence means is read in the application', async () => {
  await page.goto(base);
  await drawn(page);
  await page.locator('#s-c2').hover();
  const opened = page.context().waitForEvent('page');
  await page.getByRole('link', { name: 'help about c2' }).click();
  const help = await opened;
  await help.waitForURL(/help\/model#heatconvection/);
  await help.getByLabel('find in the help').fill('view factors');
  await help.keyboard.press('Enter');
  await help.waitForURL(/q=view/);
  assert.ok(await help.locator('.found').count() > 0);
  await help.getByLabel('find in the help').fill('zzz');
  await help.keyboard.press('Enter');
  await help.waitForURL(/q=zzz/);
  assert.match(await help.locator('.help-text').innerText(), /Nothing has all these words/);
  await help.close();
});

test('a model of half a million cells is cut open, followed and read', async () => {
  await page.goto(base);
  await drawn(page);
  await put(page, 'parameters/t/value', '5 mm');
  await put(page, 'mesh/size', '0.85 mm');
  await page.getByRole('button', { name: /^Run/ }).click();
  await page.waitForFunction(() => document.getElementById('run').innerText.includes('Run #3') && document.querySelector('.slip.ended'), null, { timeout: 400000 });
  await page.goto(`${base}plates`);
  await drawn(page);
  const cells = Number((await page.locator('#brief').innerText()).match(/([\d\s\u202f]+)\scells/)[1].replace(/\D/g, ''));
  assert.ok(cells > 450000, `${cells} cells`);
  const slice = page.waitForResponse((r) => r.url().includes('/slice?') && r.status() === 200, { timeout: 300000 });
  await reloaded(() => page.getByRole('button', { name: 'add a slice across z' }).click());
  const data = await (await slice).body();
  assert.ok(JSON.parse(data.subarray(4, 4 + data.readUInt32LE(0)).toString()).count > 10000);
  const streams = page.waitForResponse((r) => r.url().includes('/streams?') && r.status() === 200, { timeout: 300000 });
  await reloaded(() => page.getByRole('button', { name: '+ streams of the heat flux' }).click());
  await streams;
  const box = await page.locator('#canvas').boundingBox();
  let read = '';
  for (let i = 0; i < 120 && !/\d °C/.test(read); i++) { // until the slice is there, wherever it is seen
    await page.mouse.move(box.x + box.width * (0.35 + 0.05 * (i % 7)), box.y + box.height * (0.3 + 0.05 * (i % 5)));
    await page.waitForTimeout(250);
    read = await page.locator('#pointer').innerText();
  }
  assert.match(read, /\d °C/);
  assert.deepEqual(faults, []);
});
