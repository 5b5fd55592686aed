import { chromium } from 'playwright-core';
const [,, path, out, w='1280', h='800', ...steps] = process.argv;
const b = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox','--disable-quic','--no-first-run','--disable-background-networking','--disable-component-update','--disable-sync','--use-gl=angle','--use-angle=swiftshader','--enable-unsafe-swiftshader'] });
const p = await b.newPage({ viewport: { width: +w, height: +h } });
p.on('console', m => { if (m.type()==='error') console.log('console:', m.text()); });
p.on('pageerror', e => console.log('pageerror', e.message));
await p.goto('http://127.0.0.1:8421'+path);
await p.waitForFunction(() => document.documentElement.dataset.drawn === 'yes', null, {timeout: 20000}).catch(()=>console.log('not drawn'));
for (const s of steps) { await p.evaluate(s); await p.waitForTimeout(700); }
await p.waitForTimeout(500);
await p.screenshot({ path: out });
await b.close();
