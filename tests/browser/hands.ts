/** What an operator's hands do in several tests. */
import type { Locator, Page } from '@playwright/test'

/** Chooses from a list as its user does: opens it, presses an option. */
export async function choose(field: Locator, option: string | RegExp): Promise<void> {
  await field.click()
  await field.page().getByRole('option', { name: option, exact: true }).click()
}

/** Starts the plan on the sheet: asked for, what it costs is read, and confirmed. */
export async function start(page: Page): Promise<void> {
  await page.getByRole('button', { name: /^Start/ }).click()
  await page.getByRole('dialog').getByText(/users.* are sent to/).waitFor()
  await page.keyboard.press('Enter')
}
