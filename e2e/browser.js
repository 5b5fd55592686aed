// Starts the server with fresh demo data and a browser, for the stories and the
// screenshots.

import { spawn } from 'node:child_process';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium } from 'playwright-core';

const program = new URL('../bin/saltkettle', import.meta.url).pathname;

/** Starts the server in a data folder; with none a fresh one is made. */
export async function startServer({ data, command = 'demo' } = {}) {
  const own = !data;
  data ??= await mkdtemp(join(tmpdir(), 'saltkettle-'));
  const child = spawn(program, [command, '--no-key', '--data', data, '--listen', '127.0.0.1:0'], { stdio: ['ignore', 'pipe', 'pipe'] });
  let log = '';
  child.stderr.on('data', (d) => { log += d; });
  const url = await new Promise((resolve, reject) => {
    const timer = setTimeout(() => reject(new Error(`the server did not start: ${log}`)), 60000);
    child.once('exit', (code) => reject(new Error(`the server ended with ${code}: ${log}`)));
    child.stdout.on('data', (d) => {
      const found = /http:\/\/[\d.:]+\//.exec(String(d));
      if (found) {
        clearTimeout(timer);
        resolve(found[0]);
      }
    });
  });
  const stop = async (signal = 'SIGTERM') => {
    const gone = new Promise((resolve) => { child.removeAllListeners('exit'); child.once('exit', resolve); });
    child.kill(signal);
    await gone;
    if (own && signal === 'SIGTERM') await rm(data, { recursive: true, force: true });
  };
  return { url, data, stop, log: () => log };
}

/** Starts Chromium and opens a page of the given size. */
export async function startBrowser({ width = 1280, height = 800 } = {}) {
  const browser = await chromium.launch({
    executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-quic', '--no-first-run', '--disable-background-networking', '--disable-component-update', '--disable-sync', '--use-gl=angle', '--use-angle=swiftshader', '--enable-unsafe-swiftshader'],
  });
  const context = await browser.newContext({ viewport: { width, height } });
  const page = await context.newPage();
  page.setDefaultTimeout(Number(process.env.PATIENCE ?? 60000)); // ms
  const faults = [];
  page.on('pageerror', (e) => faults.push(`script: ${e.message}`));
  page.on('console', (m) => { if (m.type() === 'error') faults.push(`console: ${m.text()}`); });
  return { browser, context, page, faults };
}

/** Waits until the drawing of a page has been made. */
export async function drawn(page) {
  await page.waitForFunction(() => document.documentElement?.dataset.drawn === 'yes');
  await page.waitForTimeout(250);
}

/** Waits until a drawing is another one than before, however slow the machine is. */
export async function changed(picture, before) {
  for (let i = 0; i < 240; i++) {
    const now = await picture();
    if (now !== before) return now;
    await new Promise((done) => { setTimeout(done, 250); });
  }
  throw new Error('the drawing stays what it was');
}

/** Waits until a drawing stays what it is. */
export async function settled(picture) {
  for (let i = 0, before; i < 120; i++) {
    const now = await picture();
    if (now === before) return;
    before = now;
    await new Promise((done) => { setTimeout(done, 500); });
  }
  throw new Error('the drawing never stays what it is');
}

/** Does something and waits until the answer to the edit that follows is shown. */
export async function edited(page, action) {
  const answered = page.waitForResponse((r) => /\/(edit|undo|redo)/.test(r.url()));
  await action();
  if ((await answered).status() !== 200) throw new Error(`the edit was answered with ${(await answered).status()}`);
  await page.waitForFunction(() => !document.querySelector('[aria-busy]'));
}

/** Types, or chooses, a value where it stands, and leaves the field. */
export async function put(page, place, value) {
  const field = page.locator(`[data-place="${place}"]`).first();
  if ((await field.inputValue()) === value) return;
  await edited(page, async () => {
    if (await field.evaluate((f) => f.tagName === 'SELECT')) {
      await field.focus(); // long lists are fetched then
      return field.selectOption(value);
    }
    await field.fill(value);
    return field.press('Tab');
  });
}

/** Does something after which the page is drawn anew, and waits for that. */
export async function redrawn(page, act) {
  await page.evaluate(() => { document.documentElement.dataset.drawn = 'before'; });
  await act();
  await drawn(page);
}

/** A server and a browser for the stories of a file, and the faults that its page had. */
export function stage({ after, before }) {
  const at = {};
  before(async () => {
    at.server = await startServer();
    Object.assign(at, await startBrowser());
  });
  after(async () => {
    await at.browser?.close();
    await at.server?.stop();
  });
  return at;
}

/** Opens a model of the shelf. */
export async function open(at, name) {
  await at.page.goto(at.server.url);
  await at.page.getByRole('link', { name: `open ${name}` }).click();
  await drawn(at.page);
}

/** The address of the model that is open, up to the name of a view. */
export const base = (page) => page.url().split('?')[0].replace(/(plates|trials|report)$/, '');

/** Waits until a run of the model that is open has ended. */
export async function ended(page, number = 1) {
  await page.waitForFunction((n) => document.getElementById('run').innerText.includes(`Run #${n}`) && document.querySelector('.slip.ended'), number, { timeout: 300000 });
}

/** The document of a model as its file has it. */
export async function documentOf(page) {
  const model = page.url().match(/\/models\/\d+/)[0];
  return (await page.request.get(`${new URL(page.url()).origin}${model}/file`)).json();
}
