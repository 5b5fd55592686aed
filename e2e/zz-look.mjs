import { drawn, put, startBrowser, startServer } from './browser.js';
const server = await startServer();
const { browser, page, faults } = await startBrowser();
try {
  await page.goto(server.url);
  await page.getByRole('link', { name: 'open Brine block' }).click();
  await drawn(page);
  await page.waitForTimeout(1000);
  await page.screenshot({ path: '/tmp/shots/bb-sheet.png' });
  await page.waitForFunction(() => document.querySelector('.slip.ended'), null, { timeout: 300000 });
  await page.screenshot({ path: '/tmp/shots/bb-run.png' });
  const base = page.url().split('?')[0].replace(/\/$/, '');
  for (const p of ['I', 'II']) {
    await page.goto(`${base}/plates?plate=${p}`);
    await page.waitForTimeout(6000);
    await page.screenshot({ path: `/tmp/shots/bb-${p}.png` });
  }
  console.log(faults);
} finally { await browser.close(); await server.stop(); }
