/**
 * What an operator does most, by the keyboard alone. An act is a key pressed or a text typed; each task says how many
 * it may take. Source of the wish: WCAG 2.2, 2.1.1 (all by keyboard) and 2.4.1 (blocks can be bypassed).
 */
import { ownHouse } from './own-house'
import { expect, test, type Page } from './test'

const house = ownHouse()

/** Ten acts are enough for anything but a host. */
const MOST_ACTS = 10

/** A keyboard that counts. */
function hands(page: Page) {
  let acts = 0
  return {
    async press(...keys: string[]): Promise<void> {
      for (const key of keys) await page.keyboard.press(key)
      acts += keys.length
    },
    async type(text: string): Promise<void> {
      await page.keyboard.type(text)
      acts++
    },
    /** Finds by name and goes there, or does it. */
    async find(words: string): Promise<void> {
      await page.keyboard.press('Control+k')
      await expect(page.getByPlaceholder('Do or go…')).toBeFocused()
      await page.keyboard.type(words)
      await page.keyboard.press('Enter')
      await expect(page.getByPlaceholder('Do or go…')).toBeHidden()
      acts += 3
    },
    within(most = MOST_ACTS): void {
      expect(acts).toBeLessThanOrEqual(most)
      acts = 0
    },
  }
}
const open = async (page: Page, path: string) => {
  await page.goto(house.url + path)
  await page.getByRole('heading', { level: 1 }).waitFor()
  return hands(page)
}
const onPlan = async (page: Page) => {
  const by = await open(page, '/plans/enrolment-morning')
  await page.getByText('nothing in the way').waitFor()
  return by
}
const cell = (page: Page) => page.getByRole('gridcell').and(page.locator(':focus'))

test('a plan is opened by its name, from anywhere', async ({ page }) => {
  const by = await open(page, '/fleet')
  await by.find('enrolment morning')
  await expect(page).toHaveURL(/\/plans\/enrolment-morning$/)
  by.within()
})

test('a share is changed, undone and done again', async ({ page }) => {
  const by = await onPlan(page)
  await by.press('p')
  await expect(cell(page)).toBeVisible()
  await by.press('ArrowRight')
  await by.type('40')
  await by.press('Enter')
  await expect(page.getByText('changed, not saved')).toBeVisible()
  by.within()
  await by.press('Control+z')
  await expect(page.getByText('changed, not saved')).toBeHidden()
  await by.press('Control+Shift+z')
  await expect(page.getByText('changed, not saved')).toBeVisible()
  by.within(2)
})

test('a group and a location are added, and Back closes what the address says is open', async ({ page }) => {
  const by = await onPlan(page)
  await by.press('g')
  await expect(page.getByRole('dialog', { name: /Add group E/ })).toBeVisible()
  await expect(page).toHaveURL(/open=group:/)
  await by.press('Escape')
  await expect(page.getByRole('dialog')).toBeHidden()
  // It was not added: nothing of it is on the sheet.
  await expect(page.getByText('Group E', { exact: true })).toBeHidden()
  await expect(page.getByText('changed, not saved')).toBeHidden()
  await by.press('g')
  await expect(page.getByRole('dialog').getByLabel('Name')).toBeFocused()
  await by.press('Control+a')
  await by.type('Late comers')
  await by.press('Enter')
  await expect(page.getByRole('dialog')).toBeHidden()
  await expect(page.getByRole('rowheader').filter({ hasText: 'Late comers' })).toBeVisible()
  by.within()
  // Where its users come from is chosen before it is added, too, and chosen anew.
  await by.press('g')
  const dialog = page.getByRole('dialog', { name: /Add group F/ })
  await dialog.getByRole('button', { name: 'Like A' }).click()
  await expect(dialog.getByRole('status')).toHaveText('REY 50 %, TAV 35 %, OSA the rest')
  await dialog.getByRole('button', { name: 'Spread evenly' }).click()
  await dialog.getByRole('button', { name: 'Add it' }).click()
  await expect(dialog).toBeHidden()
  await expect(page.getByRole('gridcell', { name: /^Group F at TAV: 33/ })).toBeVisible()
  await by.press('l')
  await expect(page.getByRole('dialog', { name: 'Add a location' })).toBeVisible()
  await page.goBack()
  await expect(page.getByRole('dialog')).toBeHidden()
  await expect(page).toHaveURL(/\/plans\/enrolment-morning$/)
  await by.press('l')
  await expect(page.getByRole('dialog', { name: 'Add a location' })).toBeVisible()
  await by.press('Tab', 'Enter')
  await expect(page.getByText(/Nobody is placed at/)).toBeVisible()
  by.within()
})

test('an objective is set', async ({ page }) => {
  const by = await onPlan(page)
  await by.find('add an objective')
  await by.type('p99 of Enrol at most 3 s in holds')
  await by.press('Enter')
  await expect(page.getByLabel('Objective 3')).toHaveValue('p99 of Enrol at most 3 s in holds')
  by.within()
})

test('a plan is edited as text and saved', async ({ page }) => {
  const by = await open(page, '/plans/how-far')
  await page.getByText('nothing in the way').waitFor()
  await by.press('t')
  await expect(page.getByRole('textbox', { name: 'The plan as text' })).toBeFocused()
  await by.press('Control+End')
  await by.type('notes: By keyboard\n')
  await expect(page.getByText('changed, not saved')).toBeVisible()
  await by.press('Control+s')
  await expect(page.getByText('Saved as version 2.', { exact: true })).toBeVisible()
  by.within()
})

test('an approval is recorded where it is missing', async ({ page }) => {
  const targets = `${house.url}/api/targets`
  const [portal] = (await (await fetch(targets)).json()) as { id: string, approval: { until: string } }[]
  const past = { ...portal!.approval, until: '2020-01-01T00:00:00.000Z' }
  await fetch(`${targets}/${portal!.id}/approval`, {
    method: 'PUT',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ approval: past }),
  })
  const by = await open(page, '/plans/enrolment-morning')
  await expect(page.getByText(/1 in the way/)).toBeVisible()
  await by.press('f')
  await expect(page.getByRole('dialog')).toBeVisible()
  // From the hosts by two fields to the moment it ends.
  await by.press('Tab', 'Tab')
  await by.type('010520311800')
  await by.press('Tab', 'Tab', 'Enter')
  await expect(page.getByRole('dialog')).toBeHidden()
  await expect(page.getByText('nothing in the way')).toBeVisible()
  by.within()
})

test('a calibration is asked for', async ({ page }) => {
  const by = await open(page, '/plans/enrolment-morning')
  await page.getByText('Nothing is calibrated').waitFor()
  await by.find('fix the first')
  await expect(page.getByRole('dialog', { name: 'Calibrate' })).toBeVisible()
  // Everything is chosen: Enter begins it.
  await expect(page.getByRole('button', { name: 'Begin' })).toBeFocused()
  await by.press('Escape')
  by.within()
})

test('a host is added and tried', async ({ page }) => {
  const by = await open(page, '/fleet/hosts')
  await page.getByLabel('address of', { exact: false }).first().waitFor()
  await by.press('n')
  await by.press('Control+a')
  await by.type('127.0.0.1')
  await by.press('Tab')
  await by.type('22')
  await by.press('Enter', 'Control+s')
  await expect(page.getByRole('button', { name: 'Saved' })).toBeVisible()
  by.within(14)
})

test('from an address to a settled result on one way; its seconds are marked, its window chosen, its exchanges read', async ({
  page,
}) => {
  const by = await open(page, '/')
  await page.getByRole('heading', { name: 'Board' }).waitFor()
  await by.press('i')
  await expect(page.getByRole('textbox', { name: 'Addresses' })).toBeFocused()
  await expect(page.getByText('reyk, nimbral')).toBeVisible()
  await by.type(`${house.portal}/timetable`)
  await by.press('Control+Enter')
  // Tried with one user here; what a start orders and costs is read, and confirmed.
  await expect(page.getByRole('dialog').getByText(/are sent to/)).toBeVisible()
  await expect(page).toHaveURL(/\/plans\/first-look-at-.*open=start/)
  await by.press('Enter')
  await expect(page).toHaveURL(/\/runs\/3$/)
  by.within(5)

  await expect(page.getByText(/left/).first()).toBeVisible({ timeout: 60_000 })
  await by.press('m')
  await by.type('the first look')
  await by.press('Enter')
  await expect(page.getByText('the first look').first()).toBeVisible()
  by.within()
  await expect(page.getByText(/^\+00:(09|1\d)$/).first()).toBeVisible({ timeout: 30_000 })
  await by.press('S')
  await expect(page.getByRole('heading', { name: 'Exact figures' })).toBeVisible({ timeout: 60_000 })
  by.within(1)

  await by.find('choose a window')
  await by.press('Control+a')
  await by.type('2')
  await by.press('Tab', 'Control+a')
  await by.type('6')
  await by.press('Enter')
  await expect(page).toHaveURL(/from=2&to=6/)
  by.within()
  await page.reload()
  await expect(page.getByRole('textbox', { name: 'to' })).toHaveValue('6')
  await by.press('e')
  await expect(page).toHaveURL(/\/runs\/3$/)
  await by.find('exchanges that were kept')
  await expect(page.getByRole('option').and(page.locator(':focus'))).toBeVisible()
  await by.press('ArrowDown')
  by.within()
})

test('an address that does not answer as a page should is told before anything is ordered', async ({ page }) => {
  const by = await open(page, '/')
  await page.getByRole('heading', { name: 'Board' }).waitFor()
  await by.press('i')
  await expect(page.getByText('reyk, nimbral')).toBeVisible()
  await by.type(`${house.portal}/nowhere-at-all`)
  await by.press('Control+Enter')
  await expect(page.getByText('No machine has been ordered.')).toBeVisible()
  await expect(page.getByText(/answered 404/)).toBeVisible()
  by.within()
})
