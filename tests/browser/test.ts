/** Playwright's test, which says what was on the screen when one fails: the trace of a computer that is gone later. */
import { test as base } from '@playwright/test'

export { expect, type Page } from '@playwright/test'

/** Letters of the page that are told. */
const MOST = 2000

export const test = base.extend<{ tellsTheScreen: undefined }>({
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
