/**
 * The real interface, as a new user would go through it: read the board, change a plan, break it, fix it, start it,
 * read the result.
 */
import { start } from './hands'
import { ownHouse } from './own-house'
import { expect, test } from './test'
import { request } from 'undici'

const house = ownHouse()
test.describe.configure({ mode: 'serial' })

test('the board answers in sentences, and its first load is small', async ({ page }) => {
  const scripts = new Set<string>()
  page.on('request', (asked) => {
    if (asked.resourceType() === 'script') scripts.add(asked.url())
  })
  await page.goto(house.url)
  await expect(page.getByRole('heading', { name: 'Board' })).toBeVisible()
  await expect(page.getByText(/^Yes: p95 of Enrol \d+ ms at 240 users\.$/)).toBeVisible()
  await expect(page.getByText(/^No: p95 of Enrol \d\.\d\d s at 600 users\. Held up to 450 users\.$/)).toBeVisible()
  await expect(page.getByLabel('Meter')).toContainText('Nothing is out')
  await page.waitForLoadState('networkidle')
  // One that is to save data, as here, is given no page before somebody goes there; others are, after three seconds.
  const first = scripts.size
  await page.waitForTimeout(4000)
  expect(scripts.size).toBe(first)
  // Asked for again as a browser would, and weighed as it comes over the wire.
  const sizes = await Promise.all(
    [...scripts].map(
      async url =>
        (await (await request(url, { headers: { 'accept-encoding': 'gzip' } })).body.arrayBuffer()).byteLength,
    ),
  )
  const scriptBytes = sizes.reduce((a, b) => a + b, 0)
  console.log(`first load: ${Math.round(scriptBytes / 1024)} kB of script in ${scripts.size} files`)
  expect(scriptBytes).toBeGreaterThan(20_000)
  expect(scriptBytes).toBeLessThan(450 * 1024)
})

test('keys lead from place to place, and never fire while one types', async ({ page }) => {
  await page.goto(house.url)
  await page.getByText('Questions ready to ask').waitFor()
  await page.keyboard.press('4')
  await expect(page.getByRole('heading', { name: 'Fleet' })).toBeVisible()
  await page.keyboard.press('3')
  await expect(page).toHaveURL(/\/plans$/)
  await page.getByText('Enrolment morning').click()
  await page.getByLabel('Question').click()
  await page.keyboard.press('5')
  await expect(page).toHaveURL(/\/plans\/enrolment-morning$/)
})

test('the placement grid is edited like a sheet; what is in the way says so and is fixed', async ({ page }) => {
  await page.goto(`${house.url}/plans/enrolment-morning`)
  const cell = (name: RegExp) => page.getByRole('gridcell', { name })
  await cell(/^Students on campus at REY/).focus()
  await page.keyboard.type('40')
  await page.keyboard.press('Enter')
  await expect(page.getByText('Students on campus: 60 % has no place.')).toBeVisible()
  await expect(page.getByRole('button', { name: /Start: 1 thing in the way/ })).toBeVisible()
  await page.getByText('changed, not saved').waitFor()
  await page.getByRole('heading', { name: 'Before you start' }).click()
  await page.keyboard.press('f')
  await expect(page.getByText('Students on campus: 60 % has no place.')).toBeHidden()
  await expect(cell(/^Students on campus at REY: 100 %, 68 users/)).toBeVisible()
  await page.keyboard.press('Control+z')
  await expect(cell(/^Students on campus at REY: 40 %/)).toBeVisible()
  await page.keyboard.press('Control+z')
  await expect(page.getByText('changed, not saved')).toBeHidden()
})

test('rubbish stays in the cell with words that say where and why, and Esc takes it back', async ({ page }) => {
  await page.goto(`${house.url}/plans/enrolment-morning`)
  const score = page.getByRole('gridcell', { name: /^Students at home, level over time/ })
  await score.focus()
  await page.keyboard.press('Enter')
  await page.keyboard.press('End')
  await page.keyboard.type(', hodl 3 s')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('alert')).toContainText('“hodl 3 s” is not understood')
  await expect(page.locator('input.edit')).toHaveValue(/hodl 3 s$/)
  await page.keyboard.press('Escape')
  await expect(page.getByRole('alert')).toBeHidden()
  await expect(score).toHaveText('0 → 104 in 15 s, hold 45 s, → 0 in 5 s')
  await page.getByRole('gridcell', { name: /^Advisers at TAV/ }).focus()
  await page.keyboard.type('400')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('alert')).toContainText('400 is more than the whole')
})

test('too few machines and too small an approval are in the way, with their remedies', async ({ page }) => {
  await page.goto(`${house.url}/plans/how-far`)
  await page.getByLabel('Machines at OSA').fill('0')
  await page.getByLabel('Machines at OSA').press('Tab')
  await expect(page.getByText('OSA has users and no machine.')).toBeVisible()
  await page.getByRole('button', { name: 'Size it' }).click()
  await expect(page.getByText('OSA has users and no machine.')).toBeHidden()
  await page.getByRole('gridcell', { name: /^Advisers, level over time/ }).focus()
  await page.keyboard.type('0 → 900 in 15 s, hold 60 s, → 0 at once')
  await page.keyboard.press('Enter')
  await expect(page.getByText(/users at peak; the owner of Enrolment portal agreed to at most 600/)).toBeVisible()
  await page.getByRole('button', { name: 'Approval…' }).click()
  await page.getByLabel('Most users at once').fill('many')
  await page.getByRole('button', { name: 'Record the approval' }).click()
  await expect(page.getByRole('dialog').getByRole('alert')).toBeVisible()
  await page.getByLabel('Most users at once').fill('2000')
  await page.getByRole('button', { name: 'Record the approval' }).click()
  await expect(page.getByText(/agreed to at most 600/)).toBeHidden()
})

test('one who starts a plan gets to its run, however quickly the server answers', async ({ page }) => {
  // The dialog closes while the way to the run begins: neither may undo the other.
  const { line } = (await (await page.request.get(`${house.url}/api/runs/1`)).json()) as { line: object }
  await page.route('**/api/plans/*/start', route => route.fulfill({ json: line }))
  for (let i = 0; i < 6; i++) {
    await page.goto(`${house.url}/plans/enrolment-morning`)
    await page.getByText('nothing in the way').first().waitFor()
    await start(page)
    await expect(page).toHaveURL(/\/runs\/1/)
  }
})

test('Start leads to a settled result within two minutes: what was merged is what the portal counted, and nothing is left out', async ({
  page,
}) => {
  await page.goto(`${house.url}/plans/enrolment-morning`)
  await page.getByRole('button', { name: /^Start/ }).waitFor()
  const began = Date.now()
  await start(page)
  await expect(page).toHaveURL(/\/runs\/3$/)
  await expect(page.getByText('of 6 enrolled')).toBeVisible()
  await expect(page.getByText('loading', { exact: true }).first()).toBeVisible({ timeout: 60_000 })
  await expect(page.getByText(/So far, yes\./)).toBeVisible({ timeout: 40_000 })
  // Group by group as planned, and step by step what came back so far.
  const group = page.getByRole('list', { name: 'Users by group' }).getByRole('listitem').first()
  await expect(group).toContainText(/Students at home *(\d+) of \1/)
  const steps = page.getByRole('table', { name: 'Steps now' }).getByRole('row')
  await expect(steps.filter({ hasText: 'All requests' })).toContainText(/\d\/s/)
  await expect(page.getByText(/240 users for another \d+ s/)).toBeVisible()
  await page.getByRole('tab', { name: 'Kept exchanges' }).click()
  await page.getByRole('list', { name: 'Exchanges as they are kept' }).getByRole('button').first().click()
  await expect(page.getByRole('dialog').getByRole('heading', { name: 'Sent' })).toBeVisible()
  await page.keyboard.press('Escape')
  await page.keyboard.press('m')
  await page.keyboard.type('the registrar opened a second queue')
  await page.keyboard.press('Enter')
  await expect(page.getByText('the registrar opened a second queue')).toBeVisible()
  await expect(page.getByText(/^Yes: p95 of Enrol/)).toBeVisible({ timeout: 100_000 })
  expect(Date.now() - began).toBeLessThan(120_000)
  await expect(page.getByLabel('Meter')).toContainText('Nothing is out', { timeout: 15_000 })
  await expect(page.getByText('every account balances')).toBeVisible()
  // Users were on the networks of the plan.
  await expect(page.getByRole('heading', { name: 'Networks felt' })).toBeVisible()
  await expect(page.getByRole('row').filter({ hasText: 'far satellite' })).toContainText(/6\d\d ms/)

  const counts = (await (await page.request.get(`${house.portal}/counts`)).json()) as Record<
    string,
    Record<string, { received: number }>
  >
  // The portal knows addresses, and not whose journey called them: a step of two journeys has two rows here.
  const table = page.getByRole('table', { name: 'figures' })
  const sent = async (step: string) =>
    (
      await table
        .getByRole('row')
        .filter({ has: page.locator('b', { hasText: new RegExp(`^${step}( on |$)`) }) })
        .locator('td:nth-child(3)')
        .allTextContents()
    ).reduce((sum, text) => sum + Number(text.replace(/\D/g, '')), 0)
  for (const [step, { received }] of Object.entries(counts['3']!)) await expect.poll(() => sent(step)).toBe(received)
})

test('a result follows the window one chooses, unfolds by location, and gives its histograms to others', async ({
  page,
}) => {
  await page.goto(`${house.url}/runs/2`)
  const table = page.getByRole('table', { name: 'figures' })
  const all = table.locator('tfoot th').nth(2)
  await expect(all).toHaveText(/\d/)
  const whole = await all.textContent()
  const to = page.getByLabel(/^to/)
  // As slowly as people type: the screen is drawn anew in between, and must not take it away.
  await to.fill('')
  await to.pressSequentially('60', { delay: 400 })
  await to.press('Enter')
  await expect(all).not.toHaveText(whole!)
  await table.getByRole('button', { name: 'Unfold Enrol', exact: true }).click()
  await expect(table.getByRole('row').filter({ hasText: 'TAV' })).toBeVisible()
  await page.getByRole('button', { name: 'whole run' }).click()
  await expect(all).toHaveText(whole!)
  const log = await page.request.get(`${house.url}/api/runs/2/histograms`)
  expect(await log.text()).toMatch(/^#\[Histogram log format/)
})

test('both themes are there, and remembered', async ({ page }) => {
  await page.goto(house.url)
  await page.getByText('Questions ready to ask').waitFor()
  const ground = () => page.evaluate(() => getComputedStyle(document.body).backgroundColor)
  const before = await ground()
  await page.getByRole('button', { name: 'Light or dark' }).click()
  await expect.poll(ground).not.toBe(before)
  const after = await ground()
  await page.reload()
  await expect.poll(ground).toBe(after)
})

test('two tabs: the second to save is told, and loses nothing', async ({ context }) => {
  const [first, second] = [await context.newPage(), await context.newPage()]
  for (const page of [first, second]) await page.goto(`${house.url}/plans/how-far`)
  const rename = async (page: typeof first, text: string) => {
    await page.getByLabel('Question').fill(text)
    await page.getByLabel('Question').press('Tab')
    await page.getByRole('button', { name: /^Save/ }).click()
  }
  await rename(first, 'Mine?')
  await expect(first.getByText('changed, not saved')).toBeHidden()
  await rename(second, 'Theirs?')
  const told = second.getByRole('alertdialog')
  await expect(told).toContainText('Somebody else saved version 2')
  await expect(told).toContainText('question')
  await expect(second.getByLabel('Question')).toHaveValue('Theirs?')
  await told.getByRole('button', { name: /Save mine as version 3/ }).click()
  await expect(told).toBeHidden()
  await expect(second.getByText('version 3').first()).toBeVisible()
  // What the first had saved is still there, as version 2.
  await second.keyboard.press('Escape')
  await second.getByRole('button', { name: /^Versions/ }).click()
  await expect(second.getByLabel('Versions of the plan')).toContainText('Mine?')
})

test('a server that is gone is said to be gone, and the screen recovers by itself', async ({ page }) => {
  await page.goto(house.url)
  await page.getByText('Questions ready to ask').waitFor()
  await expect(page.getByLabel('Meter')).toContainText('Nothing is out')
  await house.end('main', 'SIGKILL')
  await expect(page.getByLabel('Meter')).toContainText('No news for', { timeout: 15_000 })
  // A page that was never seen cannot come: one stays, is told, and gets there.
  await page.getByRole('link', { name: 'People', exact: true }).click()
  await expect(page.getByText('The page opens once it does.', { exact: true })).toBeVisible()
  await expect(page.getByText('Questions ready to ask')).toBeVisible()
  await page.waitForTimeout(1000)
  await expect(page.getByText('The page opens once it does.', { exact: true })).toBeVisible()
  await house.startVornak()
  await expect(page.getByRole('heading', { name: 'People' }).first()).toBeVisible()
  await expect(page.getByLabel('Meter')).not.toContainText('No news for', { timeout: 15_000 })
})

test('a part of a page that was never opened is told while the server is gone, and opens once it is there', async ({ page }) => {
  await page.goto(`${house.url}/plans/enrolment-morning`)
  await page.getByRole('button', { name: /^As text/ }).waitFor()
  await house.end('main', 'SIGKILL')
  await page.getByRole('button', { name: /^As text/ }).click()
  const told = page.getByText('What was asked for opens once it does.', { exact: true })
  await expect(told).toHaveCount(1)
  await house.startVornak()
  await expect(page.getByRole('heading', { name: 'As text' })).toBeVisible()
  await expect(page.getByRole('textbox', { name: 'The plan as text' })).toContainText('enrolment')
  await expect(told).toBeHidden()
})

test('a part of an earlier release comes no more: one is told, and may load the page anew', async ({ page }) => {
  await page.goto(`${house.url}/plans/enrolment-morning`)
  await page.getByRole('button', { name: /^As text/ }).waitFor()
  await page.route(/_nuxt\/.*\.js$/, route => route.fulfill({ status: 404 }))
  await page.getByRole('button', { name: /^As text/ }).click()
  await expect(page.getByText('Vornak was brought up to date.', { exact: true })).toBeVisible()
  await page.unroute(/_nuxt\/.*\.js$/)
  await page.getByRole('button', { name: 'Load the page anew' }).click()
  // It was asked for, and is there.
  await expect(page.getByRole('heading', { name: 'As text' })).toBeVisible()
})
