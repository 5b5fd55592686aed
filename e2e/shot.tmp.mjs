import { startBrowser, drawn } from './browser.js';
const { browser, page, faults } = await startBrowser({width:1280,height:1100});
const base = 'http://127.0.0.1:8421';
await page.goto(base);
await page.screenshot({ path: '/tmp/s0.png' });
await browser.close();
