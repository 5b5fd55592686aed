import { drawn, put, startBrowser, startServer } from './browser.js';
const server = await startServer();
const { browser, page, faults } = await startBrowser();
try {
  await page.goto(server.url);
  await page.getByRole('link', { name: 'open Dosing junction' }).click();
  await drawn(page);
  await page.waitForFunction(() => document.querySelector('.slip.ended'), null, { timeout: 180000 });
  const base = page.url().split('?')[0].replace(/\/$/, '');
  for (const p of ['I', 'II', 'III']) {
    console.log(`${base}/plates?plate=${p}`);
    await page.goto(`${base}/plates?plate=${p}`);
    await page.waitForTimeout(5000);
    await page.screenshot({ path: `/tmp/shots/dj-${p}.png` });
  }
  console.log(faults);
} finally { await browser.close(); await server.stop(); }
