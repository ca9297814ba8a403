/**
 * From a journey to its load and back: bundles and spans by hand, a plan that walks it against a chosen target, wrong
 * answers and exchanges in the result.
 */
import { choose, start } from './hands'
import { ownHouse } from './own-house'
import { expect, test } from './test'

const house = ownHouse({ history: false })
test.describe.configure({ mode: 'serial' })

test('a bundle, a span and an expectation are made by hand', async ({ page }) => {
  await page.goto(`${house.url}/journeys/approve`)
  const rows = page.getByRole('listbox', { name: 'Steps' }).getByRole('option')
  await page.getByRole('button', { name: 'Add a bundle' }).nth(1).click()
  await expect(rows).toHaveCount(2)
  await page.getByLabel('At once').fill('99')
  await page.getByLabel('At once').press('Tab')
  await expect(page.getByText('99 is more than 64.')).toBeVisible()
  await page.getByLabel('At once').fill('2')
  await page.getByLabel('At once').press('Tab')
  await page.getByRole('button', { name: 'Add a request' }).click()
  await expect(page.getByRole('tab')).toHaveCount(2)
  await page.getByLabel('Address').fill('/portal.css')
  await page.getByLabel('Address').press('Tab')
  await page.getByRole('tab').first().click()
  await page.getByLabel('Address').fill('/crest.svg')
  await page.getByLabel('Address').press('Tab')
  await expect(rows.nth(1)).toContainText('2 requests, 2 at once')
  await rows.first().click()
  await choose(page.getByLabel('Add an expectation'), 'JSON value')
  await page.getByLabel('Path, RFC 9535').fill('$.approved[')
  await page.getByLabel('Path, RFC 9535').press('Tab')
  await expect(page.getByRole('button', { name: /1 fault/ })).toBeVisible()
  await page.getByLabel('Path, RFC 9535').fill('$.approved')
  await page.getByLabel('Path, RFC 9535').press('Tab')
  await choose(page.getByLabel('Rule'), 'is')
  await page.getByLabel('Value', { exact: true }).fill('false')
  await page.getByLabel('Value', { exact: true }).press('Tab')
  await page.getByRole('button', { name: /Settings, spans, feeds/ }).click()
  await page.getByRole('button', { name: 'Add a span' }).click()
  await page.getByLabel('Name of the span').fill('All of it')
  await page.getByLabel('Name of the span').press('Tab')
  await expect(page.getByText('Nothing wrong with it.')).toBeVisible()
  await page.getByRole('button', { name: /^Save/ }).click()
  await expect(page.getByText('changed, not saved')).toBeHidden()
})

test('a try shows what each expectation saw, also when it was missed', async ({ page }) => {
  await page.goto(`${house.url}/journeys/approve`)
  await page.getByRole('button', { name: /Try with one user/ }).click()
  await expect(page.getByText('1 of 3 exchanges failed')).toBeVisible({ timeout: 30_000 })
  await expect(page.getByText('wrong answer: expected: $.approved is false; saw true')).toBeVisible()
  await page.getByRole('button', { name: 'Open the step' }).click()
  await expect(page.getByText('last try saw true')).toBeVisible()
  await expect(page.getByText('last try saw status 200')).toBeVisible()
})

test('a plan is given another journey; a target that is not approved is in the way', async ({ page }) => {
  await fetch(`${house.url}/api/targets`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ target: { id: 'x', name: 'Twin', environment: 'production', baseUrl: house.portal } }),
  })
  await page.goto(`${house.url}/plans/enrolment-morning`)
  await choose(page.getByLabel('Target'), 'Twin, production')
  await expect(page.getByText('Twin is not approved: its owner has not agreed to any load.')).toBeVisible()
  await page.getByRole('button', { name: /^Undo/ }).click()
  await choose(page.getByLabel('Journey of Students commuting'), 'Adviser approves')
  await page.getByText('nothing in the way').waitFor()
  await page.getByRole('button', { name: /^Save/ }).click()
  await expect(page.getByText('changed, not saved')).toBeHidden()
})

test('under load the wrong answers are counted by name, with exchanges to show for it', async ({ page }) => {
  const plan = (
    (await (await fetch(`${house.url}/api/plans/enrolment-morning`)).json()) as { plan: { groups: object[] } }
  ).plan
  const small = {
    ...plan,
    name: 'Advisers alone',
    rehearse: false,
    objectives: [{ metric: 'p95', step: 'All of it', atMost: 1000 }],
    groups: [
      {
        letter: 'A',
        name: 'Advisers',
        journeyId: 'approve',
        profile: {
          startDelayMs: 0,
          segments: [
            { to: 20, overMs: 2000 },
            { to: 20, overMs: 10_000 },
            { to: 0, overMs: 1000 },
          ],
        },
      },
    ],
    placement: { A: { REY: 5000, TAV: 'rest' } },
  }
  const saved = await fetch(`${house.url}/api/plans/advisers`, {
    method: 'PUT',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ onVersion: 0, plan: small }),
  })
  expect(saved.status).toBe(200)
  await page.goto(`${house.url}/plans/advisers`)
  await start(page)
  await expect(page.getByRole('heading', { name: 'What answers missed' })).toBeVisible({ timeout: 90_000 })
  await expect(page.getByText(/Approve missed \$\.approved is false/)).toBeVisible()
  const row = page.getByRole('row').filter({ hasText: 'All of it' })
  await expect(row).toContainText('span')
  await choose(page.getByLabel('Latency band'), 'failures')
  await expect(page.getByRole('listbox', { name: 'Exchanges' }).getByRole('option').first()).toContainText(
    'wrong answer',
  )
  await expect(page.getByText('saw true').first()).toBeVisible()
  await choose(page.getByLabel('Step', { exact: true }), 'Request')
  await expect(page.getByText('None was kept here.')).toBeVisible()
})

test('a command journey says that approval cannot be held inside it', async ({ page }) => {
  await page.goto(`${house.url}/journeys`)
  await page.getByRole('link', { name: 'A command' }).click()
  await expect(page.getByText('cannot be held to the approved hosts')).toBeVisible()
  await expect(page.getByText('The journey has no kit.').first()).toBeVisible()
  await page.getByLabel('Run', { exact: true }).fill('node load.mjs "two words"')
  await page.getByLabel('Run', { exact: true }).press('Tab')
  await expect(page.getByLabel('Run', { exact: true })).toHaveValue('node load.mjs "two words"')
  await page
    .locator('input[type=file]')
    .setInputFiles({ name: 'kit.tgz', mimeType: 'application/gzip', buffer: Buffer.from('a kit') })
  await expect(page.getByText(/kit\.tgz, SHA-256/)).toBeVisible()
  await expect(page.getByText('Nothing wrong with it.')).toBeVisible()
})
