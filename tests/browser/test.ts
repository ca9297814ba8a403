/** Playwright's test, which says what was on the screen when one fails: the trace of a computer that is gone later. */
import { test as base } from '@playwright/test'

export { expect, type Page } from '@playwright/test'

/** Letters of the page that are told. */
const MOST = 2000

/** As a browser that is to save data says it. */
const SAVES_DATA = () => Object.defineProperty(navigator, 'connection', { value: Object.assign(new EventTarget(), { saveData: true }) })

export const test = base.extend<{ fetchesAhead: boolean, savesData: undefined, tellsTheScreen: undefined }>({
  /** Whether pages are fetched before somebody goes there: a third of the CPU of a test, which only some look at. */
  fetchesAhead: [false, { option: true }],
  savesData: [
    async ({ context, fetchesAhead }, use) => {
      if (!fetchesAhead) await context.addInitScript(SAVES_DATA)
      await use(undefined)
    },
    { auto: true },
  ],
  tellsTheScreen: [
    async ({ page }, use, info) => {
      const faults: string[] = []
      page.on('pageerror', error => faults.push(`Fault on the page: ${error.message}`))
      page.on('response', (response) => {
        if (response.status() >= 400) faults.push(`${response.status()} ${response.request().method()} ${response.url()}`)
      })
      await use(undefined)
      if (info.status === info.expectedStatus) return
      const text = await page.locator('body').innerText({ timeout: 5000 }).catch(String)
      console.log(`On the screen of “${info.title}”, ${page.url()}:\n${text.slice(0, MOST)}\n${faults.join('\n')}`)
    },
    { auto: true },
  ],
})
