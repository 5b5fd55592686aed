import { drawn, put, startBrowser, startServer, ended } from './browser.js';
const server = await startServer();
const { browser, page } = await startBrowser();
try {
  await page.goto(server.url);
  await page.getByRole('link', { name: 'open Yard shade' }).click();
  await drawn(page);
  await page.screenshot({ path: '/tmp/y0.png' });
  const t0 = Date.now(); await page.getByRole('button', { name: /^Run/ }).click();
  await page.waitForTimeout(6000); await page.screenshot({ path: '/tmp/y00.png' });
  await ended(page, 1); console.log('took', (Date.now() - t0) / 1000);
  await page.screenshot({ path: '/tmp/y1.png' });
  const base = page.url().split('?')[0];
  await page.goto(`${base}plates`);
  await drawn(page);
  await page.waitForTimeout(1500);
  await page.screenshot({ path: '/tmp/y2.png' });
  await page.goto(`${base}plates?plate=III`);
  await drawn(page);
  await page.waitForTimeout(800);
  await page.screenshot({ path: '/tmp/y3.png' });
} catch (e) { console.log(e.message.slice(0, 600)); } finally { await browser.close(); await server.stop?.(); process.exit(0); }
