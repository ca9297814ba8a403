/** The target's own account: a source tried and chosen from, its series on the stave and in the result, its count. */
import { ownHouse } from './own-house'
import { expect, test } from './test'

const house = ownHouse({ history: false })

test('a source is tried step by step; what it offers is chosen, kept, and read', async ({ page }) => {
  await page.goto(`${house.url}/targets/enrolment-portal`)
  const source = page.getByRole('group', { name: 'Source portal metrics' })
  await source.getByRole('button', { name: 'Try' }).click()
  const told = source.getByRole('status')
  await expect(told).toContainText('agreed to')
  await expect(told).toContainText('can be read')
  await expect(source.getByText('2', { exact: true }).first()).toBeVisible()
  await source.getByRole('button', { name: /^Choose among \d+ it offers/ }).click()
  await source.getByRole('row', { name: /portal_busy_workers/ }).getByRole('button', { name: 'Add' }).click()
  const names = source.getByLabel('Name of the series')
  await expect(names.last()).toHaveValue('portal busy workers')
  // Two of one name: said at the row, and refused.
  await names.last().fill('CPU')
  await expect(source.getByRole('alert').first()).toContainText('Two series are called CPU')
  await page.keyboard.press('Control+s')
  await expect(page.getByText('Give one another name.').first()).toBeVisible()
  await names.last().fill('busy')
  await page.keyboard.press('Control+s')
  await expect(page.getByText('Enrolment portal is saved.').first()).toBeVisible()
  await page.reload()
  await expect(source.getByLabel('Name of the series').last()).toHaveValue('busy')
})

test('a host nobody agreed to is not read, and the approval says where it could', async ({ page }) => {
  await page.goto(`${house.url}/targets/enrolment-portal`)
  await page.getByRole('button', { name: 'Add a source' }).click()
  const source = page.getByRole('group', { name: 'Source source 2' })
  await source.getByLabel('Address').fill('http://127.0.0.1:9/metrics')
  await source.getByRole('button', { name: 'Try' }).click()
  await expect(source.getByRole('status')).toContainText('has not agreed that figures are read from 127.0.0.1:9')
  await expect(page.getByLabel('Figures may be read from')).toBeVisible()
})

test('queries to a metrics server: one that cannot be read is said where it is written', async ({ page }) => {
  await page.goto(`${house.url}/targets/enrolment-portal`)
  await page.getByRole('button', { name: 'Add a source' }).click()
  const source = page.getByRole('group', { name: 'Source source 2' })
  await source.getByLabel('What it is').click()
  await page.getByRole('option', { name: 'metrics server' }).click()
  await source.getByRole('button', { name: 'Add a series' }).click()
  const query = source.getByLabel('Query of series 1')
  await query.fill('sum by (pod) (rate(calls_total[5s))')
  await expect(source.getByRole('alert')).toContainText('cannot be read from')
  await query.fill('sum by (pod) (rate(calls_total{run="{{run}}"}[5s]))')
  await expect(source.getByRole('alert')).toHaveCount(0)
  // The portal is no metrics server: said as that.
  await source.getByLabel('Address').fill(house.portal)
  await source.getByRole('button', { name: 'Try' }).click()
  await expect(source.getByRole('status')).toContainText('answers 404')
})

test('a program sends figures with a token that is shown once; what came is chosen from', async ({ page, request }) => {
  await page.goto(`${house.url}/targets/enrolment-portal`)
  await page.getByRole('button', { name: 'Add a source' }).click()
  const source = page.getByRole('group', { name: 'Source source 2' })
  await source.getByLabel('What it is').click()
  await page.getByRole('option', { name: 'command on a host' }).click()
  // A command wants a host and a line.
  await expect(source.getByRole('alert')).toContainText('source 2 names no host.')
  await source.getByLabel('What it is').click()
  await page.getByRole('option', { name: 'sent here' }).click()
  await expect(source.getByRole('alert')).toHaveCount(0)
  await expect(source.getByText('Save the target first.')).toBeVisible()
  await page.keyboard.press('Control+s')
  await source.getByRole('button', { name: 'Make a token' }).click()
  const token = await source.getByText(/^vornak-source_/).innerText()
  await source.getByRole('button', { name: 'Try' }).click()
  await expect(source.getByRole('status')).toContainText('Nothing was sent to it in the last minute.')
  const headers = { authorization: `Bearer ${token}`, 'content-type': 'text/plain' }
  const answer = await request.post(`${house.url}/api/sent/lines`, { headers, data: 'jobs{queue="mail"} 4\njobs{queue="print"} 2' })
  expect(await answer.json()).toEqual({ taken: 2, runs: 0 })
  await source.getByRole('button', { name: 'Try' }).click()
  await source.getByRole('button', { name: /^Choose among 1 it offers/ }).click()
  await source.getByRole('row', { name: /jobs/ }).getByRole('button', { name: 'Add' }).click()
  await source.getByRole('button', { name: 'Try' }).click()
  await expect(source.getByText('6', { exact: true })).toBeVisible()
  await source.getByRole('button', { name: 'Take it back' }).click()
  await expect(source.getByText('Nobody can send to it yet.')).toBeVisible()
  expect((await request.post(`${house.url}/api/sent/lines`, { headers, data: 'jobs 1' })).status()).toBe(401)
  // As it was before.
  await source.getByRole('button', { name: 'Remove', exact: true }).first().click()
  await page.keyboard.press('Control+s')
  await expect(page.getByText('Enrolment portal is saved.').first()).toBeVisible()
})

test('a plan asks for it, from so long before the load', async ({ page }) => {
  await page.goto(`${house.url}/plans/enrolment-morning`)
  await expect(page.getByRole('button', { name: /^Start/ })).toBeVisible()
  await page.keyboard.press('b')
  const asks = page.getByRole('checkbox', { name: 'Read the target’s own figures beside the load' })
  await expect(asks).toBeChecked()
  const before = page.getByLabel('From before the load, at rest')
  await before.fill('45 s')
  await page.keyboard.press('Enter')
  await expect(before).toHaveValue('45 s')
  await asks.click()
  await expect(before).toBeHidden()
})

test('its series stand beside users and times, and its count balances', async ({ page }) => {
  const started = await page.request.post(`${house.url}/api/plans/enrolment-morning/start`, { data: {} })
  const { id } = (await started.json()) as { id: number }
  await page.goto(`${house.url}/runs/${id}`)
  // Live: the newest value, and how old it is.
  await expect(page.getByRole('button', { name: 'Target’s own' })).toBeVisible({ timeout: 120_000 })
  await expect(page.getByTitle(/^Target’s own: .* old$/).first()).toBeAttached({ timeout: 30_000 })
  // Settled: at rest, under the load, and counted.
  await expect(page.getByRole('heading', { name: 'The target’s own account' })).toBeVisible({ timeout: 180_000 })
  const table = page.getByRole('table', { name: 'target-series' })
  await table.scrollIntoViewIfNeeded()
  await expect(table.getByRole('row', { name: /^connections/ })).toContainText('24')
  await expect(table.getByRole('row', { name: /^calls Enrol/ })).toBeVisible()
  const balanced = page.getByText(/Balanced: the target counted exactly what was answered/)
  await expect(page.locator('.three-way').filter({ has: balanced })).toBeVisible({ timeout: 30_000 })
  // In soundness, too, as a line of its own.
  await page.getByRole('heading', { name: 'Soundness' }).scrollIntoViewIfNeeded()
  await expect(page.getByRole('listitem').filter({ has: balanced })).toBeVisible({ timeout: 30_000 })
  // A staff of its own, split as its source splits it.
  await page.goto(`${house.url}/runs/${id}?staffs=${encodeURIComponent('target calls; target no such')}`)
  await expect(page.getByRole('button', { name: 'calls', exact: true })).toBeVisible()
  await page.getByLabel('Emphasise the next line').first().click()
  await expect(page.getByTitle('no such: nothing of it was read')).toBeVisible()
})
