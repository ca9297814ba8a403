/** Results that other programs measured: files become a run, a program tells of one, an archive is opened. */
import { readFileSync } from 'node:fs'
import type { RunView } from '../../api/views'
import { ownHouse } from './own-house'
import { expect, test } from './test'

const house = ownHouse()

const T0 = 1_760_000_000_000
const upload = (name: string, lines: string[]) => ({ name, mimeType: 'text/plain', buffer: Buffer.from(lines.join('\n')) })
const rows = Array.from({ length: 300 }, (_, i) => [T0 + i * 100, i % 2 ? 'Search' : 'Enrol', 50 + (i % 100), i % 30 ? 'fine' : 'bad'])

test('results join a run: from its files to a new run with both', async ({ page }) => {
  await page.goto(`${house.url}/runs/2`)
  const { startAt, sentence } = ((await (await fetch(`${house.url}/api/runs/2`)).json()) as RunView).line
  await page.getByRole('link', { name: 'Join results from elsewhere to it' }).click()
  const own = Array.from({ length: 200 }, (_, i) => [startAt! + 5000 + i * 100, 'Probe', 40 + (i % 50), 'true'].join(','))
  await page.locator('input[type=file]').setInputFiles(upload('probe.csv', ['time,step,duration_ms,ok', ...own]))
  await expect(page.getByLabel('Joined to')).toHaveText(/^2 · /)
  await expect(page.getByText('run 2 stays as it is')).toBeVisible()
  await page.getByRole('button', { name: 'Look through' }).click()
  await expect(page.getByRole('region', { name: 'What they hold' }).getByRole('row', { name: /probe\.csv/ })).toContainText('200')
  await page.getByRole('button', { name: 'Make it a run' }).click()
  // A whole run is merged anew: long where others use the computer.
  await expect(page.getByText(/run 2 at REY, run 2 at TAV, run 2 at OSA, joined by what was measured elsewhere by probe\.csv/))
    .toBeVisible({ timeout: 60_000 })
  await expect(page.locator('#figures').getByRole('row').filter({ hasText: 'Probe' })).toContainText('200')
  await expect(page.getByText('Measured elsewhere, by probe.csv')).toBeVisible()
  await page.goto(`${house.url}/runs/2`)
  await expect(page.getByText(sentence).first()).toBeVisible()
})

test('files are recognised, mapped by hand where that fails, looked through, and become a run', async ({ page }) => {
  await page.goto(`${house.url}/runs`)
  await page.getByRole('link', { name: /From elsewhere|read what other programs measured/ }).click()
  await page.locator('input[type=file]').setInputFiles(upload('north.csv', ['when,step,took,verdict', ...rows.map(r => r.join(',')), 'noon,x,1,fine']))
  const form = page.getByRole('region', { name: 'north.csv' })
  await expect(form.getByLabel('Time', { exact: true })).toHaveText(/when/)
  await expect(form.getByLabel('Right or wrong')).toHaveText(/not there/)
  await form.getByLabel('Right or wrong').click()
  await page.getByRole('option', { name: 'verdict' }).click()
  await form.getByLabel('Written where it is right').fill('fine')
  await form.getByLabel('Name of a template').fill('nightly')
  await form.getByRole('button', { name: 'Keep this way of reading' }).click()
  await expect(page.getByRole('button', { name: 'Make it a run' })).toBeDisabled()
  await page.getByRole('button', { name: 'Look through' }).click()
  const held = page.getByRole('region', { name: 'What they hold' })
  await expect(held.getByRole('row', { name: /north\.csv/ })).toContainText('300')
  await expect(held).toContainText('line 302: “noon” is no time in ms')

  // The next file is read the same way.
  await page.locator('input[type=file]').setInputFiles(upload('south.csv', ['when,step,took,verdict', ...rows.map(r => r.join(','))]))
  const other = page.getByRole('region', { name: 'south.csv' })
  await other.getByLabel('Read', { exact: true }).click()
  await page.getByRole('option', { name: 'nightly' }).click()
  await expect(other.getByLabel('Written where it is right')).toHaveValue('fine')
  await page.getByLabel('Objectives').fill('p95 of Search at most 100 ms')
  await page.getByRole('button', { name: 'Look through' }).click()
  // All rows of the second are equal to those of the first, and name no user: that is asked, never guessed.
  await expect(page.getByText('300 rows are equal in several files and name no user')).toBeVisible()
  await expect(page.getByRole('button', { name: 'Make it a run' })).toBeDisabled()
  await page.getByLabel('300 rows are equal').click()
  await page.getByRole('option', { name: /all count/ }).click()
  await page.getByRole('button', { name: 'Make it a run' }).click()
  await expect(page).toHaveURL(/\/runs\/\d+$/)
  await expect(page.getByText('measured elsewhere by north.csv, south.csv')).toBeVisible()
  await expect(page.getByText(/^No: p95 of Search \d+ ms, over the whole load/).first()).toBeVisible()
  await expect(page.locator('#figures').getByRole('row', { name: /^all/ })).toContainText('600')
  await expect(page.getByRole('heading', { name: 'Machines' })).toHaveCount(0)
  await expect(page.getByText('Measured elsewhere, by north.csv, south.csv')).toBeVisible()
})

test('a file that is none says so, and the others stay', async ({ page }) => {
  // The first is looked at for so long that the second has failed before.
  await page.route('**/api/elsewhere/recognise', async (route) => {
    const answer = await route.fetch()
    if (answer.ok()) await page.waitForTimeout(1500)
    await route.fulfill({ response: answer })
  })
  await page.goto(`${house.url}/runs/elsewhere`)
  const pick = page.getByRole('button', { name: /^A file of results/ })
  await page.locator('input[type=file]').setInputFiles(upload('good.csv', ['time,step,duration', `${T0},Look,12`]))
  await pick.waitFor()
  await page.locator('input[type=file]').setInputFiles({ name: 'bad.xlsx', mimeType: 'x', buffer: Buffer.from([0x50, 0x4b, 3, 4, 0, 0]) })
  await expect(page.getByText('This is an archive or a spreadsheet.')).toBeVisible()
  await page.getByRole('button', { name: 'Leave good.csv out' }).waitFor()
  await expect(page.getByText('This is an archive or a spreadsheet.')).toBeVisible()
})

test('a program tells of a run that is open before the eyes; it ends with the last word', async ({ page }) => {
  await page.goto(`${house.url}/runs/elsewhere`)
  const live = page.getByRole('region', { name: 'While it is measured' })
  await live.getByLabel('Name of the run').fill('From the branches')
  await live.getByLabel('Locations').fill('branch office')
  await live.getByRole('button', { name: 'Open it' }).click()
  const token = /vornak-stream_\S+/.exec((await live.locator('pre').first().textContent())!)![0]
  await live.getByRole('link', { name: /^Open run/ }).click()
  await expect(page.getByText('it waits for its first lines').first()).toBeVisible()
  const tell = (path: string, body: string) =>
    page.request.post(`${house.url}/api/told/${path}`, { headers: { authorization: `Bearer ${token}` }, data: body })
  const line = (ms: number) => JSON.stringify({ step: 'Look', duration: ms, ok: true, user: `u${ms}` })
  expect((await tell('lines?batch=1', [line(10), line(20), 'rubbish'].join('\n'))).ok()).toBe(true)
  const tellers = page.getByRole('region', { name: 'Told by' })
  await expect(tellers.getByRole('row', { name: /branch office/ })).toContainText(/branch office\s*2\s*1/)
  await expect(page.getByText('measured elsewhere, as claimed')).toBeVisible()
  await tell('lines?batch=2', line(30))
  await tell('end', '{}')
  await expect(page.locator('#figures').getByRole('row', { name: /^all/ })).toContainText('3', { timeout: 20_000 })
  await expect(page.getByText('measured elsewhere by branch office')).toBeVisible()
})

test('all of a run goes out as an archive, and comes back as that run', async ({ page }) => {
  await page.goto(`${house.url}/runs/2`)
  const { line } = (await (await fetch(`${house.url}/api/runs/2`)).json()) as { line: { sentence: string } }
  const [file] = await Promise.all([page.waitForEvent('download'), page.getByRole('link', { name: /All of it, archive/ }).click()])
  expect(file.suggestedFilename()).toBe('run-2.vornak.tgz')
  const buffer = readFileSync(await file.path())
  await page.goto(`${house.url}/runs/elsewhere`)
  await page.locator('input[type=file]').setInputFiles({ name: 'run-2.vornak.tgz', mimeType: 'application/gzip', buffer })
  await expect(page).toHaveURL(/\/runs\/\d+$/)
  await expect(page.getByText('opened from the archive of run 2 elsewhere')).toBeVisible()
  await expect(page.getByText(line.sentence, { exact: true })).toBeVisible()
})

test('a run of hours is drawn by the slowest second of each stretch, and second by second where one looks closely', async ({ page }) => {
  const rowsOfHours = Array.from({ length: 9000 }, (_, s) => [T0 + s * 1000, 'Search', 40 + (s % 7), 'true'].join(','))
  const put = await fetch(`${house.url}/api/files?name=hours.csv`, {
    method: 'POST',
    headers: { 'content-type': 'application/octet-stream' },
    body: ['time,step,duration_ms,ok', ...rowsOfHours].join('\n'),
  })
  const { id: file } = (await put.json()) as { id: string }
  const post = async (path: string, body: object) =>
    (await fetch(`${house.url}/api/${path}`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(body),
    })).json() as Promise<{ id: number, reading: object }>
  const { reading } = await post('elsewhere/recognise', { file })
  const files = [{ file, name: 'hours.csv', reading, place: 'REY', shiftMs: 0 }]
  const { id } = await post('elsewhere/runs', { name: 'Hours', files })
  await page.goto(`${house.url}/runs/${id}`)
  await expect(page.getByText('Drawn are the slowest of every 3 s')).toBeVisible()
  await expect(page.locator('#figures').getByRole('row').filter({ hasText: 'Search' })).toContainText('9 000')
  await page.goto(`${house.url}/runs/${id}?zoom=4000-4600`)
  await expect(page.locator('#figures').getByRole('row').filter({ hasText: 'Search' })).toContainText('9 000')
  await expect(page.getByText('Drawn are the slowest')).toHaveCount(0)
  await page.getByRole('button', { name: /^whole run/ }).first().click()
  await expect(page.getByText('Drawn are the slowest of every 3 s')).toBeVisible()
})
