/** What every screen has in common: a palette, lists that sort and are copied, drafts that come back, undo and redo. */
import { ownHouse } from './own-house'
import { expect, test } from './test'

const house = ownHouse()

test('the palette goes to a run by words of its question, and does what the screen offers, with its price', async ({
  page,
}) => {
  await page.goto(`${house.url}/plans/enrolment-morning`)
  await page.getByText('nothing in the way').waitFor()
  await page.keyboard.press('Control+k')
  await expect(page.getByRole('option', { name: /^Start ?€0\.\d+ forecast/ })).toBeVisible()
  await page.keyboard.type('how many students')
  await page.getByRole('option', { name: /^Run 2/ }).waitFor()
  await page.keyboard.press('Escape')
  await page.keyboard.press('Control+k')
  await page.keyboard.type('start')
  await page.keyboard.press('Enter')
  // Nothing has been started: it is asked first, and Esc leaves it.
  await expect(page.getByRole('dialog').getByText(/6 machines are ordered/)).toBeVisible()
  await page.keyboard.press('Escape')
  await expect(page.getByRole('dialog')).toBeHidden()
  await page.keyboard.press('Control+k')
  await expect(page.getByPlaceholder('Do or go…')).toBeFocused()
  // Quicker than any list can follow: what is taken is what was typed, not what was shown a moment before.
  await page.getByPlaceholder('Do or go…').evaluate((field: HTMLInputElement) => {
    field.value = 'Run 2'
    field.dispatchEvent(new Event('input', { bubbles: true }))
  })
  await page.keyboard.press('Enter')
  await expect(page).toHaveURL(/\/runs\/2$/)
})

test('a list is sorted by its heads, its columns are remembered, and it is copied as it is seen', async ({ browser }) => {
  const context = await browser.newContext({ permissions: ['clipboard-read', 'clipboard-write'] })
  const page = await context.newPage()
  await page.goto(`${house.url}/runs`)
  const first = page.locator('tbody').getByRole('row').first()
  await expect(first).toContainText('Up to how many students')
  await page.getByRole('button', { name: 'Run', exact: true }).click()
  await expect(first).toContainText('Can the portal take 240')
  await expect(page.getByRole('columnheader', { name: 'Run' })).toHaveAttribute('aria-sort', 'ascending')
  await page.getByRole('button', { name: 'Columns of runs' }).click()
  await page.getByRole('menuitemcheckbox', { name: 'Soundness' }).click()
  await page.keyboard.press('Escape')
  await expect(page.getByRole('columnheader', { name: 'Soundness' })).toBeHidden()
  await page.getByRole('button', { name: 'Copy runs as CSV' }).click()
  await expect(page.getByText('Copied 2 rows as CSV.').first()).toBeVisible()
  const csv = await page.evaluate(() => navigator.clipboard.readText())
  expect(csv.split('\r\n')).toHaveLength(3)
  expect(csv).toMatch(/^Run,Name or question,Answer,Users,"?Cost, €"?,When\r\n1,/)
  await page.reload()
  await expect(page.getByRole('columnheader', { name: 'Question' })).toBeVisible()
  await expect(page.getByRole('columnheader', { name: 'Soundness' })).toBeHidden()
  await context.close()
})

test('what is not saved is asked about once, comes back, is undone and done again', async ({ page }) => {
  await page.goto(`${house.url}/plans/how-far`)
  const question = page.getByLabel('Question')
  const before = await question.inputValue()
  await question.fill('How far, again?')
  await question.press('Tab')
  await page.getByRole('link', { name: 'Fleet' }).click()
  await page.getByRole('button', { name: 'Leave, keep the draft' }).click()
  await expect(page).toHaveURL(/\/fleet$/)
  await page.goto(`${house.url}/plans/how-far`)
  await expect(page.getByText(/What you had not saved at \d\d:\d\d is back\./).first()).toBeVisible()
  await expect(question).toHaveValue('How far, again?')
  await page.getByRole('heading', { name: 'Before you start' }).click()
  await page.keyboard.press('Control+z')
  await expect(question).toHaveValue(before)
  await page.keyboard.press('Control+Shift+Z')
  await expect(question).toHaveValue('How far, again?')
  await page.keyboard.press('Control+s')
  await expect(page.getByText('Saved as version 2.').first()).toBeVisible()
  await page.getByRole('link', { name: 'Fleet' }).click()
  await expect(page).toHaveURL(/\/fleet$/)
})

test('what cannot be taken stays where it was typed, with the reason under it, and a comma is a comma', async ({
  page,
}) => {
  await page.goto(`${house.url}/plans/enrolment-morning`)
  await page.getByText('nothing in the way').waitFor()
  await page.keyboard.press('b')
  const cost = page.getByLabel(/A run may cost at most/)
  await cost.fill('two')
  await cost.press('Tab')
  await expect(page.getByText('“two” is no number: write one of 0 or more.')).toBeVisible()
  await expect(cost).toHaveValue('two')
  await cost.fill('12,5')
  await cost.press('Tab')
  await expect(cost).toHaveValue('12.5')
  await expect(page.getByText(/is no number/)).toBeHidden()
})

test('what is kept is set in days, and a run is kept for good', async ({ page }) => {
  await page.goto(`${house.url}/runs`)
  await page.getByRole('link', { name: 'What is kept' }).click()
  await expect(page.getByText('Nothing is due.')).toBeVisible()
  const days = page.getByLabel('Exchanges kept whole, days')
  await days.fill('some')
  await days.press('Tab')
  await expect(page.getByText('Give whole days from 1 to 36,500')).toBeVisible()
  await days.fill('400')
  await days.press('Tab')
  await expect(page.getByText('Give whole days')).toBeHidden()
  const kept = page.waitForResponse(r => r.url().endsWith('/api/runs/1/kept') && r.ok())
  await page.getByLabel('Keep run 1 for good').click()
  await expect(page.getByLabel('Keep run 1 for good')).toBeChecked()
  await kept
  await page.reload()
  await expect(days).toHaveValue('400')
  await expect(page.getByLabel('Keep run 1 for good')).toBeChecked()
  await days.fill('')
  await days.press('Tab')
  await page.reload()
  await expect(page.getByLabel('What runs measured, days')).toHaveValue('')
  await expect(days).toHaveValue('')
})

test('what an element says in its title is a tooltip, under the pointer and by keyboard; Escape takes it away', async ({
  page,
}) => {
  await page.goto(`${house.url}/runs`)
  const find = page.getByRole('button', { name: 'Find', exact: true })
  const said = page.locator('[data-slot=text]').filter({ hasText: 'Find anything (Ctrl K)' })
  await find.hover()
  await expect(said).toBeVisible()
  await expect(find).not.toHaveAttribute('title')
  await expect(find).toHaveAccessibleDescription('Find anything (Ctrl K)')
  await page.mouse.move(640, 400)
  await expect(said).toBeHidden()
  await expect(find).toHaveAttribute('title', 'Find anything (Ctrl K)')
  await page.keyboard.press('Tab')
  await find.focus()
  await expect(said).toBeVisible()
  await page.keyboard.press('Escape')
  await expect(said).toBeHidden()
  // A click asks for nothing.
  await page.getByRole('button', { name: 'Light or dark' }).click()
  await page.waitForTimeout(600)
  await expect(page.locator('[role=tooltip]')).toHaveCount(0)
})

test('a new target and a new journey are asked for first: nothing is kept without a name and an address', async ({ page }) => {
  const kept = async (what: string) => ((await (await page.request.get(`${house.url}/api/${what}`)).json()) as object[]).length
  for (const [what, address, wrong] of [['targets', 'Address', 'not-an-address'], ['journeys', 'First address', '']] as const) {
    const before = await kept(what)
    await page.goto(`${house.url}/${what}`)
    await page.getByRole('button', { name: /^New / }).waitFor()
    await page.keyboard.press('n')
    const dialog = page.getByRole('dialog')
    await dialog.getByLabel(/^Name/).fill('Second portal')
    await dialog.getByLabel(new RegExp(`^${address}`)).fill(wrong)
    await dialog.getByRole('button', { name: 'Begin' }).click()
    await expect(dialog).toBeVisible()
    expect(await kept(what)).toBe(before)
    await page.keyboard.press('Escape')
    await expect(dialog).toBeHidden()
    expect(await kept(what)).toBe(before)
    await page.keyboard.press('n')
    await dialog.getByLabel(new RegExp(`^${address}`)).fill(what === 'targets' ? 'https://second.example' : '/second')
    await dialog.getByRole('button', { name: 'Begin' }).click()
    await expect(page).toHaveURL(new RegExp(`/${what}/second-portal`))
    expect(await kept(what)).toBe(before + 1)
  }
})

test('a form says at each field what cannot be taken, in its own words or the server’s, and keeps what was typed', async ({
  page,
}) => {
  await page.goto(`${house.url}/targets?open=new`)
  const dialog = page.getByRole('dialog', { name: 'New target' })
  await dialog.getByRole('button', { name: 'Begin' }).click()
  // Nothing was sent: what is needed is said at both, and the first has the focus.
  await expect(dialog.getByText('This is needed.')).toHaveCount(2)
  await expect(dialog.getByLabel('Name')).toBeFocused()
  await expect(dialog.getByLabel('Name')).toHaveAttribute('aria-invalid', 'true')
  await dialog.getByLabel('Name').fill('Timetable')
  await dialog.getByLabel('Address').fill('portal')
  await page.keyboard.press('Enter')
  await expect(dialog.getByText('This is no address: it begins with http:// or https://.')).toBeVisible()
  await expect(dialog.getByText('This is needed.')).toHaveCount(0)

  await page.goto(`${house.url}/people/sending`)
  const mail = page.getByRole('form', { name: 'Mail server' })
  await mail.getByLabel('Server').fill('mail.example')
  const from = mail.getByLabel('Mails come from')
  await from.fill('rubbish')
  await page.keyboard.press('Enter')
  // The schema of the request said so; its sentence stands at the field, and nowhere else.
  await expect(mail.getByText('Is “rubbish”, and must be an address like ana@example.org.')).toBeVisible()
  await expect(from).toBeFocused()
  await expect(from).toHaveValue('rubbish')
  await expect(mail.getByRole('alert')).toHaveCount(0)
  await from.fill('load@example.org')
  await expect(mail.getByText(/must be an address/)).toBeHidden()
  await page.getByLabel('Name', { exact: true }).fill('gate')
  await page.getByLabel('Address', { exact: true }).first().fill('ftp://gate.example')
  await page.keyboard.press('Enter')
  await expect(page.getByText('“ftp://gate.example” is no address of a program. Write one like https://gate.example/runs.')).toBeVisible()
})

test('the charts of a result are described in words, and stand as a table whose rows choose their windows', async ({
  page,
}) => {
  await page.goto(`${house.url}/runs/2`)
  const charts = page.getByRole('group', { name: /^Charts of the run/ })
  await expect(charts).toHaveAccessibleDescription(/^\+00:00 to \+0\d:\d\d: up to \d+ users; p95 of Enrol at worst/)
  await page.getByRole('button', { name: 'The charts as a table' }).click()
  await expect(page).toHaveURL(/charts=table/)
  const table = page.getByRole('table', { name: 'charts' })
  await expect(table.getByRole('columnheader', { name: 'Users, most' })).toBeVisible()
  const row = table.locator('tbody').getByRole('row').nth(1)
  const [from, to] = [...(await row.innerText()).matchAll(/\+(\d\d):(\d\d)/g)].map(m => 60 * Number(m[1]) + Number(m[2]))
  await row.getByRole('button').click()
  await expect(page).toHaveURL(new RegExp(`from=${from}&to=${to}`))
})
