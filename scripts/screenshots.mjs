/** `npm run screenshots`: renews docs/screenshots/ from the demo's data, one picture per main view. */
import { mkdirSync } from 'node:fs'
import { join } from 'node:path'
import { buildPages, buildPrograms } from './build.mjs'
import { checkNode, CHROMIUM, installChromium, installPackages, ROOT } from './ground.mjs'

checkNode()
await installPackages()
await installChromium()
await buildPrograms()
await buildPages()
const { chromium } = await import('@playwright/test')
const { openHouse } = await import('./house.mjs')

const folder = join(ROOT, 'docs', 'screenshots')
mkdirSync(folder, { recursive: true })
const house = await openHouse()
const browser = await chromium.launch({ executablePath: CHROMIUM, args: ['--no-sandbox', '--disable-gpu', '--disable-quic', '--no-first-run', '--disable-background-networking', '--disable-component-update', '--disable-sync'] })
const pages = {}
for (const theme of ['light', 'dark']) {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } })
  await context.addInitScript(t => localStorage.setItem('nuxt-color-mode', t), theme)
  pages[theme] = await context.newPage()
}
const shoot = async (name, theme, path, ready) => {
  const page = pages[theme]
  if (path) await page.goto(house.url + path)
  await ready(page)
  // Charts draw in the frame after their data.
  await page.evaluate(() => new Promise(drawn => requestAnimationFrame(() => setTimeout(drawn, 500))))
  await page.screenshot({ path: join(folder, `${name}.png`) })
  console.log(`docs/screenshots/${name}.png`)
}
try {
  await shoot('board', 'light', '/', p => p.getByText('Answered', { exact: true }).waitFor())
  await shoot('journeys', 'light', '/journeys', p => p.getByText('Adviser approves').waitFor())
  for (const theme of ['light', 'dark']) await shoot(theme === 'light' ? 'plan' : 'plan-dark', theme, '/plans/enrolment-morning', p => p.locator('canvas').first().waitFor())
  await pages.light.keyboard.press('s')
  await shoot('gathering', 'light', undefined, p => p.getByText(/rehearsing|armed/).first().waitFor({ timeout: 60_000 }))
  await pages.dark.goto(`${house.url}/runs/3`)
  const underLoad = s => p => p.waitForFunction(wanted => Number(/\+00:(\d\d)/.exec(document.querySelector('.clock')?.textContent ?? '')?.[1] ?? 0) >= wanted, s, { timeout: 90_000 })
  await shoot('run-dark', 'dark', undefined, underLoad(32))
  await shoot('fleet', 'light', '/fleet', p => p.getByText('loading').first().waitFor({ timeout: 60_000 }))
  await shoot('run', 'light', '/runs/3', underLoad(44))
  await shoot('result', 'light', '/runs/2', p => p.getByRole('row').filter({ hasText: 'Timetable' }).first().waitFor())
}
finally {
  await browser.close()
  await house.close()
}
