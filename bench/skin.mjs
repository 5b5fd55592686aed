// A plate with about a million triangles of skin in the browser: how long it takes until it is drawn, what a
// look under the pointer takes, and a slice. Run it with "node bench/skin.mjs" after "make build".

import { drawn, startBrowser, startServer } from '../e2e/browser.js';

const size = process.argv[2] ?? '0.2 mm';
const doc = {
  kettle: 6, name: 'brine tray', space: { kind: 'solid', unit: 'mm' }, physics: [{ kind: 'heat' }], mesh: { size, across: '1' }, plates: [{ id: 'I', name: 'Temperature', field: 'temperature', unit: '°C' }],
  parts: [{ id: 'tray', name: 'tray', material: 'steel 304', role: 'solved', outline: { kind: 'rectangle', width: '100 mm', depth: '100 mm' }, span: { from: '0 mm', to: '0.2 mm' } }],
  conditions: [{ id: 'c1', kind: 'heat.source', on: { part: 'tray' }, values: { power: '20 W' } },
    { id: 'c2', kind: 'heat.convection', on: { part: 'tray', side: 'top' }, values: { medium: 'air', temperature: '20 °C', coefficient: '40 W/(m²·K)*(1 + (x/50 mm)²)' } }],
};
const server = await startServer({ command: 'serve' });
const { browser, page, faults } = await startBrowser();
page.setDefaultTimeout(600000);
await page.goto(server.url);
await page.setInputFiles('#import input', { name: 'tray.json', mimeType: 'application/json', buffer: Buffer.from(JSON.stringify(doc)) });
await page.waitForURL(/models/);
await drawn(page);
await page.getByRole('button', { name: /^Run/ }).click();
await page.waitForFunction(() => document.querySelector('.slip.ended'));
console.log((await page.locator('.slip').innerText()).replaceAll('\n', ' '));
const began = Date.now();
await page.goto(`${page.url().split('?')[0]}plates`);
await drawn(page);
console.log(`drawn after ${((Date.now() - began) / 1000).toFixed(1)} s`);
console.log(await page.evaluate(async () => {
  const { run } = JSON.parse(document.getElementById('plate-config').textContent);
  const buffer = await (await fetch(`/runs/${run}/surface`)).arrayBuffer(), length = new DataView(buffer).getUint32(0, true);
  const { counts } = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 4, length)));
  return `${counts.triangles} triangles, ${(buffer.byteLength / 1e6).toFixed(1)} MB of shape, ${(4e-6 * counts.vertices).toFixed(1)} MB of values`;
}));
const canvas = await page.locator('#canvas').boundingBox();
const looks = await page.evaluate(async ([x, y, w, h]) => {
  const canvas = document.getElementById('canvas'), times = [];
  for (let i = 0; i < 40; i++) {
    const t = performance.now();
    canvas.dispatchEvent(new PointerEvent('pointermove', { clientX: x + w * (0.35 + 0.007 * i), clientY: y + h * (0.4 + 0.003 * i), bubbles: true }));
    await new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)));
    times.push(performance.now() - t);
  }
  return times.map((t) => Math.round(t));
}, [canvas.x, canvas.y, canvas.width, canvas.height]);
console.log(`a look under the pointer, with two frames, ms: first ${looks[0]}, then ${looks.slice(1).sort((a, b) => a - b)[20]} (middle), ${Math.max(...looks.slice(1))} (longest)`);
const slice = page.waitForResponse((r) => r.url().includes('/slice?'));
await page.evaluate(() => { document.documentElement.dataset.drawn = 'before'; });
const asked = Date.now();
await page.getByRole('button', { name: 'add a slice across x' }).click();
await slice;
console.log(`slice and page anew: ${((Date.now() - asked) / 1000).toFixed(1)} s`, faults);
await browser.close();
await server.stop();
