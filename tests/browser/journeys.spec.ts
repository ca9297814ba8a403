/**
 * Journeys as a new user makes them: from a capture by this very browser, by hand, from text, from addresses; with
 * feeds and targets beside them.
 */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { choose } from './hands'
import { ownHouse } from './own-house'
import { expect, test, type Page } from './test'

const house = ownHouse({ history: false })
const folder = mkdtempSync(join(tmpdir(), 'vornak-browser-'))
test.afterAll(() => rmSync(folder, { recursive: true }))
test.describe.configure({ mode: 'serial' })
const problem = (page: Page) => page.getByRole('alert')

test('a capture by a real browser becomes a tried journey', async ({ browser, page }) => {
  const har = join(folder, 'portal.har')
  const recorded = await browser.newContext({ recordHar: { path: har, content: 'embed' } })
  const visitor = await recorded.newPage()
  await visitor.goto(`${house.portal}/start`)
  await visitor.locator('[name=student]').fill('s9999')
  await visitor.locator('[name=password]').fill('made up')
  await visitor.getByRole('button', { name: 'Sign in' }).click()
  await visitor.getByRole('button', { name: 'Enrol' }).first().click()
  await visitor.getByText('Enrolled in').waitFor()
  await recorded.close()

  await page.goto(`${house.url}/journeys`)
  await page.getByRole('link', { name: 'From a browser’s capture' }).click()
  await page.locator('input[type=file]').setInputFiles(har)
  await expect(page.getByText('Becomes')).toBeVisible()
  // The token, the hidden field and the module were answered, then sent.
  await expect(page.getByText('from /api/token, JSON $.token')).toBeVisible()
  await expect(page.getByText(/sent as body form/)).toBeVisible()
  await page.getByRole('radio', { name: /drop: only what/ }).check()
  await expect(page.getByText(/kept in 5 steps/)).toBeVisible()
  await page.getByRole('radio', { name: /bundle with their page/ }).check()
  await expect(page.getByText(/kept in 7 steps/)).toBeVisible()
  await page.getByRole('button', { name: 'Make the journey' }).click()
  await expect(page.getByText('Nothing wrong with it.')).toBeVisible()
  await page.getByRole('button', { name: /Try with one user/ }).click()
  await expect(page.getByText('Every answer was right')).toBeVisible({ timeout: 30_000 })
  await page.getByRole('option', { name: /POST enrolments/ }).click()
  await expect(page.getByText('"enrolled": true')).toBeVisible()
  await page.getByRole('button', { name: 'Open the step' }).click()
  await expect(page.getByLabel('Name', { exact: true }).last()).toHaveValue('POST enrolments')
})

test('a journey is edited by keyboard, undone, found faulty at its field, saved, and its versions looked at', async ({
  page,
}) => {
  await page.goto(`${house.url}/journeys/browse`)
  const rows = page.getByRole('listbox', { name: 'Steps' }).getByRole('option')
  await rows.first().click()
  await page.keyboard.press('d')
  await expect(rows).toHaveCount(3)
  await expect(rows.nth(1)).toContainText('Timetable 2')
  await page.keyboard.press('Alt+ArrowDown')
  await expect(rows.nth(2)).toContainText('Timetable 2')
  await page.keyboard.press('Delete')
  await expect(rows).toHaveCount(2)
  await page.keyboard.press('Control+z')
  await expect(rows).toHaveCount(3)
  await rows.nth(2).click()
  await page.getByLabel('Address').fill('/timetable/{{nobody}}')
  await page.getByLabel('Address').press('Tab')
  await expect(page.getByText(/Nobody sets “nobody”/).first()).toBeVisible()
  await expect(page.getByRole('button', { name: /1 fault: Nobody sets/ })).toBeVisible()
  await page.getByLabel('Address').fill('/timetable?seen={{user.number}}')
  await page.getByLabel('Address').press('Tab')
  await expect(page.getByText('Nothing wrong with it.')).toBeVisible()
  await page.getByLabel('Pause after').fill('2 ± 0.5')
  await page.getByLabel('Pause after').press('Tab')
  await expect(rows.nth(2)).toContainText('2 ± 0.5 s')
  await page.getByLabel('Pause after').fill('soon')
  await page.getByLabel('Pause after').press('Tab')
  await expect(page.getByText('“soon” is no pause')).toBeVisible()
  await page.getByLabel('Pause after').press('Escape')
  await expect(page.getByLabel('Pause after')).toHaveValue('2 ± 0.5 s')
  await page.getByRole('button', { name: /^Save/ }).click()
  await expect(page.getByText('changed, not saved')).toBeHidden()
  await choose(page.getByLabel('Version'), /^1, /)
  await expect(rows).toHaveCount(2)
  await page.getByRole('button', { name: 'Make it the newest' }).click()
  await expect(page.getByLabel('Version')).toContainText('3')
})

test('steps are moved by dragging, from stage to stage', async ({ page }) => {
  await page.goto(`${house.url}/journeys/enrol`)
  const rows = page.getByRole('listbox', { name: 'Steps' }).getByRole('option')
  await expect(rows).toHaveCount(3)
  // The browser begins a drag when it likes; one that it took for a click is made again.
  await expect(async () => {
    if (!(await rows.nth(0).innerText()).includes('POST /enrol'))
      await rows
        .filter({ hasText: 'POST /enrol' })
        .locator('.grip')
        .dragTo(rows.nth(0), { targetPosition: { x: 60, y: 3 } })
    await expect(rows.nth(0)).toContainText('POST /enrol', { timeout: 1000 })
  }).toPass({ timeout: 20_000 })
  await expect(async () => {
    await page.getByRole('button', { name: /^Undo/ }).click({ timeout: 1000 })
    await expect(rows.nth(2)).toContainText('POST /enrol', { timeout: 500 })
  }).toPass({ timeout: 10_000 })
})

test('two who save at once: the second is told, and keeps what was typed', async ({ page, context }) => {
  const other = await context.newPage()
  for (const p of [page, other]) await p.goto(`${house.url}/journeys/approve`)
  const rename = async (p: Page, name: string) => {
    await p.getByRole('textbox', { name: 'Name', exact: true }).first().fill(name)
    await p.getByRole('textbox', { name: 'Name', exact: true }).first().press('Tab')
    await p.getByRole('button', { name: /^Save/ }).click()
  }
  await rename(page, 'First there')
  await expect(page.getByText('changed, not saved')).toBeHidden()
  await rename(other, 'Second there')
  await expect(problem(other)).toContainText('saved by somebody else')
  await expect(other.getByRole('textbox', { name: 'Name', exact: true }).first()).toHaveValue('Second there')
})

test('a journey goes out as text and comes back; a fault is told at its line', async ({ page }) => {
  await page.goto(`${house.url}/journeys/import/text?id=enrol`)
  const text = page.getByLabel('Journey as YAML or JSON')
  await expect(text).toContainText('schema: vornak-journey/1')
  await text.click()
  await page.keyboard.press('Control+Home')
  await page.keyboard.press('End')
  await page.keyboard.press('Enter')
  await page.keyboard.type('colour: red')
  await expect(page.getByText('line 2: The journey has a field “colour” that is not known.')).toBeVisible()
  await expect(page.getByRole('button', { name: '1 fault in the way' })).toBeVisible()
  await page.keyboard.press('Shift+Home')
  await page.keyboard.type('notes: Written by hand')
  await page.getByRole('button', { name: 'Save as the next version' }).click()
  await expect(page.getByLabel('Version')).toContainText('2')
})

test('addresses become a journey and a plan, with what was agreed; what does not answer is told, and nothing is ordered', async ({
  page,
}) => {
  await page.goto(`${house.url}/journeys`)
  await page.getByRole('button', { name: /From addresses/ }).click()
  await page.getByRole('textbox', { name: 'Addresses' }).fill('nothing useful')
  await page.getByLabel('Who agreed to it').fill('its owner')
  await page.getByRole('button', { name: 'Make the plan and try it' }).click()
  await expect(problem(page)).toContainText('There is no address in it.')
  await page.getByRole('textbox', { name: 'Addresses' }).fill('http://127.0.0.1:9/a http://127.0.0.1:9/b')
  await page.getByLabel('Users').fill('25')
  await page.getByLabel('Held for').fill('90 s')
  await expect(page.getByText(/Recorded: 127\.0\.0\.1:9, at most 25 users/)).toBeVisible()
  await page.getByRole('button', { name: 'Make the plan and try it' }).click()
  await expect(page.getByText('No machine has been ordered.')).toBeVisible()
  await page.getByRole('button', { name: 'To the plan all the same' }).click()
  await expect(page.getByLabel('Question')).toHaveValue('Does 127.0.0.1:9 answer 25 users within a second?')
  await expect(page.getByText('hold 1 min 30 s').first()).toBeVisible()
  const targets = (await (await fetch(`${house.url}/api/targets`)).json()) as { baseUrl: string, approval?: object }[]
  expect(targets.find(t => t.baseUrl === 'http://127.0.0.1:9')?.approval).toMatchObject({
    hosts: ['127.0.0.1:9'],
    mostUsers: 25,
    contact: 'its owner',
  })
})

test('a secret is given, kept, and never shown again', async ({ page }) => {
  await page.goto(`${house.url}/targets/enrolment-portal`)
  await page.getByLabel('Name of the secret').fill('key')
  await page.getByLabel('Value of the secret').fill('hush-hush')
  await page.getByRole('button', { name: 'Add', exact: true }).last().click()
  await page.getByRole('button', { name: /^Save/ }).click()
  await expect(page.getByText('Nothing to save')).toBeVisible()
  await page.reload()
  await expect(page.getByText('key', { exact: true })).toBeVisible()
  expect(await page.content()).not.toContain('hush-hush')
  expect(JSON.stringify(await (await fetch(`${house.url}/api/targets`)).json())).not.toContain('hush-hush')
})

test('a feed is read as it is written; a bad one says what is wrong and can be read another way', async ({ page }) => {
  writeFileSync(join(folder, 'ragged.csv'), 'name;mail\nAna;a@x.test\nBo\n')
  writeFileSync(join(folder, 'not.csv'), Buffer.from([0x50, 0x4b, 3, 4, 0, 0, 0]))
  await page.goto(`${house.url}/feeds`)
  await page.locator('input[type=file]').setInputFiles(join(folder, 'not.csv'))
  await expect(problem(page)).toContainText('This is an archive or a spreadsheet, not a CSV.')
  await page.locator('input[type=file]').setInputFiles(join(folder, 'ragged.csv'))
  await expect(problem(page)).toContainText('One row has another number of columns than 2: row 3 has 1.')
  await choose(page.getByLabel('Rows of another length'), 'are filled and cut')
  await page.getByRole('button', { name: 'Read it so' }).click()
  await expect(
    page.getByText(/2 rows of 2 columns.*separated by semicolon.*a row of another length was filled or cut/),
  ).toBeVisible()
  await expect(page.getByRole('cell', { name: 'a@x.test' })).toBeVisible()
})

test('an OpenAPI document offers its operations', async ({ page }) => {
  await page.goto(`${house.url}/journeys/import/openapi`)
  await page.getByLabel(/Paste the document/).fill('openapi: 3.0.0\ninfo: {title: Shop}\npaths: [')
  await page.getByRole('button', { name: 'Read it' }).click()
  await expect(problem(page)).toContainText('Line 3')
  await page
    .getByLabel(/Paste the document/)
    .fill(
      'openapi: 3.0.0\ninfo: {title: Shop, version: "1"}\nservers: [{url: "http://shop.test"}]\npaths:\n  /cart: {get: {summary: Look into the cart, responses: {"200": {description: ok}}}, delete: {responses: {}}}',
    )
  await page.getByRole('button', { name: 'Read it' }).click()
  await page.getByLabel('GET /cart').check()
  await page.getByRole('button', { name: 'Make 1 step' }).click()
  await expect(page.getByRole('option', { name: /Look into the cart/ })).toBeVisible()
})

test('every screen of the library stands in the dark too, and nothing scrolls sideways', async ({ page }) => {
  await page.addInitScript(() => localStorage.setItem('nuxt-color-mode', 'dark'))
  for (const path of [
    '/journeys',
    '/journeys/as-a-browser',
    '/journeys/import/har',
    '/journeys/import/openapi',
    '/journeys/import/text',
    '/targets',
    '/targets/enrolment-portal',
    '/feeds',
    '/networks',
    '/clients',
  ]) {
    await page.goto(house.url + path)
    await page.waitForLoadState('networkidle')
    expect([
      path,
      await page.evaluate(() => document.documentElement.classList.contains('dark')),
      await page.evaluate(() => document.documentElement.scrollWidth <= window.innerWidth),
    ]).toEqual([path, true, true])
  }
})

test('a name that stands for a private address is refused in a try; one who allows it gets there', async ({ page }) => {
  const base = house.portal.replace('127.0.0.1', 'localhost')
  const target = {
    id: 'x',
    name: 'By its name',
    environment: 'test',
    baseUrl: base,
    approval: { hosts: [new URL(base).host], mostUsers: 5, until: '2999-01-01T00:00:00Z', contact: 'its owner' },
  }
  const made = await page.request.post(`${house.url}/api/targets`, { data: { target } })
  expect(made.status()).toBe(200)
  await page.goto(`${house.url}/journeys/browse`)
  await expect(page.getByText('Nothing wrong with it.')).toBeVisible()
  await choose(page.getByRole('combobox', { name: 'Target' }), 'By its name, test')
  const tryIt = page.getByRole('button', { name: /Try with one user/ })
  await tryIt.click()
  await expect(page.getByText(/stands for the private address/)).toBeVisible({ timeout: 30_000 })
  // One address after the other, until all that the name stands for are agreed to or one is reached.
  await page.getByRole('button', { name: /^Allow \S+…$/ }).click()
  const dialog = page.getByRole('dialog')
  await expect(dialog.getByLabel('Private addresses its names may stand for')).toHaveValue(/^(127\.0\.0\.1\/32|::1\/128)$/)
  await dialog.getByLabel('Private addresses its names may stand for').fill('127.0.0.1, ::1')
  await dialog.getByRole('button', { name: 'Record the approval' }).click()
  await expect(dialog).toBeHidden()
  await tryIt.click()
  await expect(page.getByText('Every answer was right')).toBeVisible({ timeout: 30_000 })
})
