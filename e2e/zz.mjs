import { startServer, startBrowser, drawn, put, ended, base, open } from './browser.js'
const server = await startServer()
const b = await startBrowser()
const { page } = b
const at = { page, server, url: server.url, ...b }
try {
  await open(at, 'Brine line')
  await drawn(page)
  await page.waitForTimeout(1000)
  await page.screenshot({ path: '/tmp/zz1.png' })
  await ended(page, 1)
  await page.goto(base(page))
  await drawn(page)
  await page.waitForTimeout(500)
  await page.screenshot({ path: '/tmp/zz2.png' })
  await page.goto(`${base(page)}plates`)
  await drawn(page)
  await page.waitForTimeout(1500)
  await page.screenshot({ path: '/tmp/zz3.png' }); await page.getByText('II Hydraulic grade').click(); await drawn(page); await page.waitForTimeout(2000); await page.screenshot({ path: '/tmp/zz4.png' })
} catch (e) { console.log(e.message); await page.screenshot({ path: '/tmp/zz9.png' }) } finally { console.log(b.faults); await b.browser.close(); await server.stop() }
