import { startServer, startBrowser, drawn, put, ended, base, open, edited } from './browser.js'
const server = await startServer()
const b = await startBrowser()
const { page } = b
const at = { page, server, url: server.url, ...b }
try {
  await open(at, 'Brine line')
  await ended(page, 1)
  await page.goto(base(page)); await drawn(page)
  await page.getByRole('button', { name: 'front', exact: true }).click()
  await page.waitForTimeout(1500)
  await page.screenshot({ path: '/tmp/zz1.png' })
  await page.getByRole('button', { name: 'corner', exact: true }).click()
  await page.waitForTimeout(1200)
  const box = await page.locator('canvas').first().boundingBox()
  // click on the middle of the return pipe
  await page.mouse.click(250, 470)
  await page.waitForTimeout(1200)
  await page.screenshot({ path: '/tmp/zz2.png' })
  await page.keyboard.press('Escape')
  await page.mouse.click(484, 385)
  await page.waitForTimeout(1200)
  await page.screenshot({ path: '/tmp/zz3.png' })
  await page.keyboard.press('Escape')
  await page.getByText('+ part', { exact: true }).click()
  await page.waitForTimeout(800)
  await page.screenshot({ path: '/tmp/zz4.png' })
} catch (e) { console.log(e.message); await page.screenshot({ path: '/tmp/zz9.png' }) } finally { console.log(b.faults); await b.browser.close(); await server.stop() }
