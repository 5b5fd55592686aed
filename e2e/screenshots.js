// Refreshes the pictures of the main views in docs/screenshots from the demo
// data.

import { mkdir } from 'node:fs/promises';
import { drawn, put, startBrowser, startServer } from './browser.js';

const out = new URL('../docs/screenshots/', import.meta.url).pathname;
await mkdir(out, { recursive: true });
const server = await startServer();
const { browser, page } = await startBrowser();
const save = (name) => page.screenshot({ path: `${out}${name}.png` });

async function run(number) {
  await page.getByRole('button', { name: /^Run/ }).click();
  await page.waitForFunction((n) => document.getElementById('run').innerText.includes(`Run #${n}`) && document.querySelector('.slip.ended'), number, { timeout: 300000 });
  await page.waitForTimeout(400);
}

try {
  await page.goto(server.url);
  await page.getByRole('link', { name: 'open Pan floor heater' }).click();
  await drawn(page);
  await page.waitForFunction(() => document.querySelector('.slip.ended'));
  // A small history: thicker floors and a wider pitch.
  let n = 1;
  for (const [place, value] of [['parameters/t/value', '6 mm'], ['parameters/pitch/value', '13.8 mm'], ['parameters/t/value', '8 mm']]) {
    await put(page, place, value);
    await run(++n);
  }
  await page.mouse.move(5, 5);
  await page.locator('#canvas').hover({ position: { x: 5, y: 400 } });
  await save('sheet');
  await page.locator('#part-floor .balloon').click();
  await page.locator('[data-place="parts/floor/outline/width"]').focus();
  await save('part');
  await page.locator('#part-floor .balloon').click();
  await page.goto(page.url().split('?')[0] + 'plates');
  await drawn(page);
  const box = await page.locator('#canvas').boundingBox();
  await page.mouse.move(box.x + box.width * 0.45, box.y + box.height * 0.4);
  await page.waitForTimeout(300);
  await save('plates');
  // Cut open, and along a line over two runs.
  const reloaded = async (act) => {
    await Promise.all([page.waitForEvent('load'), act()]);
    await drawn(page);
  };
  await reloaded(() => page.locator('[data-add-slice="y"]').click());
  await reloaded(() => page.locator('#add-line').click());
  await page.locator('[data-overlay]').nth(1).check();
  await page.locator('.line .plot').hover();
  await page.waitForTimeout(700);
  await save('cut');
  // Streams of the heat, two runs beside each other, and the report.
  await reloaded(() => page.getByRole('button', { name: 'take slice 1 away' }).click());
  await reloaded(() => page.getByRole('button', { name: 'take line 1 away' }).click());
  await reloaded(() => page.getByRole('button', { name: '+ streams of the heat flux' }).click());
  await page.waitForTimeout(1500);
  await save('streams');
  await reloaded(() => page.getByRole('button', { name: 'take streams 1 away' }).click());
  await reloaded(() => page.getByLabel('run to compare with').selectOption({ index: 1 }));
  await page.waitForTimeout(500);
  await save('beside');
  await page.keyboard.press('4');
  await page.waitForURL(/report/);
  await drawn(page);
  await save('report');
  await page.locator('#revision').click();
  await page.goto(`${page.url()}?from=1&to=4`);
  await save('revisions');
  await page.goto(`${page.url().split('/revisions')[0]}/materials?m=steel 304`);
  await page.waitForTimeout(300);
  await save('materials');
  // Radiation between surfaces, and the grade along a pipe.
  for (const [name, of, plate] of [['Drying cabinet', 'cabinet'], ['Brine line', 'pipes', 'II Hydraulic grade']]) {
    await page.goto(server.url);
    await page.getByRole('link', { name: `open ${name}` }).click();
    await drawn(page);
    await page.waitForFunction(() => document.querySelector('.slip.ended'), null, { timeout: 120000 });
    await page.goto(`${page.url().split('?')[0]}plates`);
    await drawn(page);
    if (plate) {
      await page.getByText(plate).click();
      await drawn(page);
      await page.waitForTimeout(1500);
    }
    await save(of);
  }
  // The post warms up in time, with the curves of its readings.
  await page.goto(server.url);
  await page.getByRole('link', { name: 'open Bittern pan post' }).click();
  await drawn(page);
  await page.waitForFunction(() => document.querySelector('.slip.ended'), null, { timeout: 120000 });
  for (const [place, value] of [['mesh/size', '12 mm'], ['mesh/across', '2'], ['mesh/near/1/size', '4 mm'], ['mesh/near/2/size', '4 mm'], ['run/kind', 'transient'], ['run/end', '3 h'], ['run/start', '18 °C'], ['run/tolerance', '0.1 %']]) await put(page, place, value);
  await run(2);
  await page.goto(`${page.url().split('?')[0]}plates`);
  await drawn(page);
  const curve = page.locator('figure.over-time').first();
  await curve.locator('.u-over').hover({ position: { x: 150, y: 40 } });
  await page.waitForTimeout(300);
  await save('over-time');
  // Trials, a look at a mesh, and a fill.
  await page.goto(server.url);
  await page.getByRole('link', { name: 'open Pan floor heater' }).click();
  await drawn(page);
  await page.goto(`${page.url().split('?')[0]}trials?set=t2`);
  await page.getByRole('button', { name: 'Make the trials' }).click();
  await page.waitForFunction(() => /120 of 120 done/.test(document.body.innerText), null, { timeout: 900000 });
  await page.waitForFunction(() => document.querySelector('#insight table'), null, { timeout: 180000 });
  await page.locator('.point.best').click();
  await page.waitForTimeout(500);
  await save('trials');
  await page.goto(server.url);
  // The film under a shoe, from below.
  await page.getByRole('link', { name: 'open Rake shoe' }).click();
  await drawn(page);
  await page.waitForFunction(() => document.querySelector('.slip.ended'), null, { timeout: 180000 });
  await page.goto(`${page.url().split('?')[0]}plates`);
  await drawn(page);
  await page.getByRole('button', { name: 'below', exact: true }).click();
  await page.waitForTimeout(1500);
  await save('film');
  await page.goto(server.url);
  await page.getByRole('link', { name: 'open Sluice rod' }).click();
  await drawn(page);
  await page.getByRole('button', { name: 'mesh', exact: true }).click();
  await page.waitForFunction(() => document.documentElement.dataset.meshed === 'yes');
  await page.locator('[name="by"]').selectOption('quality');
  const canvas = await page.locator('#canvas').boundingBox();
  await page.mouse.move(canvas.x + canvas.width * 0.42, canvas.y + canvas.height * 0.47);
  for (let i = 0; i < 6; i++) await page.mouse.wheel(0, -200);
  await page.waitForTimeout(500);
  await save('mesh');
  await page.goto(server.url);
  await save('shelf');
  // Brine between two ribs: speeds at four stations, and where the stream goes.
  await page.getByRole('link', { name: 'open Rib passage' }).click();
  await drawn(page);
  await page.waitForFunction(() => document.querySelector('.slip.ended'), null, { timeout: 120000 });
  await page.goto(`${page.url().split('?')[0]}plates?plate=II`);
  await drawn(page);
  await page.waitForTimeout(1500);
  await save('flow');
  await page.goto(server.url);
  // A new sheet shows what is outstanding.
  await page.getByPlaceholder('name of the device').fill('Brine trough');
  await page.getByRole('button', { name: 'Begin' }).click();
  await drawn(page);
  const added = page.waitForResponse((r) => r.url().includes('/edit'));
  await page.getByText('+ part', { exact: true }).click();
  await page.getByRole('button', { name: 'rectangle with a span in z' }).click();
  await added;
  await put(page, 'parts/p1/name', 'trough wall');
  await put(page, 'parts/p1/outline/width', '300 mm');
  await put(page, 'parts/p1/outline/depth', '12');
  await page.locator('.outstanding summary').click();
  await save('outstanding');
  await page.goto(`${server.url}storage`);
  await save('storage');
} finally {
  await browser.close();
  await server.stop();
}
