/** The report of a run: switched, moved and written in the margin, as it then stands on the sheet and in the files. */
import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { choose } from './hands'
import { ownHouse } from './own-house'
import { expect, test } from './test'

const house = ownHouse()

test('sections are switched, moved and given notes; the sheet and the file show the same', async ({ page }) => {
  await page.goto(`${house.url}/runs/2`)
  await page.getByRole('link', { name: 'Report', exact: true }).click()
  const sheet = page.frameLocator('iframe')
  await expect(sheet.getByRole('heading', { name: 'Asked and done' })).toBeVisible()
  const { line } = (await (await fetch(`${house.url}/api/runs/2`)).json()) as { line: { sentence: string } }
  await expect(sheet.getByText(line.sentence, { exact: true })).toBeVisible()

  await page.getByLabel('Asked and done', { exact: true }).click()
  await page.getByLabel('Title', { exact: true }).fill('Is the portal ready?')
  await page.getByRole('button', { name: 'Write a note under Cost' }).click()
  await page.getByLabel('Note under Cost', { exact: true }).fill('Paid by *last year*.')
  // By keys alone: cost stands before evidence.
  await page.getByLabel('Cost', { exact: true }).focus()
  await page.keyboard.press('Alt+ArrowUp')
  await expect(sheet.getByRole('heading', { name: 'Is the portal ready?' })).toBeVisible()
  await expect(sheet.getByRole('heading', { name: 'Asked and done' })).toHaveCount(0)
  await expect(sheet.locator('em', { hasText: 'last year' })).toBeVisible()
  const titles = await sheet.getByRole('heading', { level: 2 }).allTextContents()
  expect(titles.indexOf('Cost')).toBe(titles.indexOf('Evidence') - 1)

  // What is chosen is kept, and is what the file has.
  await page.reload()
  await expect(page.getByLabel('Title', { exact: true })).toHaveValue('Is the portal ready?')
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('link', { name: 'One file (HTML)' }).click()])
  expect(download.suggestedFilename()).toBe('run-2-report.html')

  // The file by itself: no server, and nothing asked of anybody; its tables sort.
  const path = join(mkdtempSync(join(tmpdir(), 'vornak-report-')), 'report.html')
  await download.saveAs(path)
  await page.context().setOffline(true)
  await page.goto(`file://${path}`)
  await expect(page.getByRole('heading', { name: 'Is the portal ready?' })).toBeVisible()
  const table = page.locator('#steps table')
  const firsts = () => table.locator('tbody td:first-child').allTextContents()
  const before = await firsts()
  await table.getByRole('button', { name: 'p50' }).click()
  const p50s = await table.locator('tbody td:nth-child(2)').evaluateAll(cells => cells.map(c => Number((c as HTMLElement).dataset.by)))
  expect(p50s).toEqual([...p50s].sort((a, b) => b - a))
  await table.getByRole('button', { name: 'step' }).click()
  await table.getByRole('button', { name: 'step' }).click()
  expect(await firsts()).toEqual([...before].sort((a, b) => a.localeCompare(b)))
  await page.context().setOffline(false)
})

test('choices are kept by a name, and are how other reports are made', async ({ page }) => {
  await page.goto(`${house.url}/reports/1`)
  const sheet = page.frameLocator('iframe')
  await expect(sheet.getByRole('heading', { name: 'The curve' })).toBeVisible()
  await page.getByLabel('The curve', { exact: true }).click()
  await expect(sheet.getByRole('heading', { name: 'The curve' })).toHaveCount(0)
  await page.getByLabel('Name of the template').fill('Without curve')
  await page.getByRole('button', { name: 'as usual', exact: true }).click()
  await expect(page.getByRole('button', { name: 'Forget Without curve' })).toBeVisible()
  await choose(page.getByLabel('Made as'), 'as usual: Without curve')
  await expect(sheet.getByRole('heading', { name: 'Objectives' })).toBeVisible()
  await expect(sheet.getByRole('heading', { name: 'The curve' })).toHaveCount(0)
  await page.getByRole('button', { name: 'Forget Without curve' }).click()
  await expect(page.getByRole('button', { name: 'Forget Without curve' })).toHaveCount(0)
})

test('a logo that is too large, and a window that is none, are refused where they are given', async ({ page }) => {
  await page.goto(`${house.url}/reports/1`)
  await expect(page.frameLocator('iframe').getByRole('heading', { name: 'Objectives' })).toBeVisible()
  await page.locator('input[type=file]').setInputFiles({ name: 'huge.png', mimeType: 'image/png', buffer: Buffer.alloc(400_000) })
  await expect(page.getByText('huge.png is larger than 300 kB.')).toBeVisible()
  await page.locator('input[type=file]').setInputFiles({ name: 'none.png', mimeType: 'image/png', buffer: Buffer.from('hello') })
  await expect(page.getByText('The logo is no picture that can be read.')).toBeVisible()
  await choose(page.getByLabel('Figures of'), 'a window')
  await page.getByLabel('To second').fill('0')
  await page.getByLabel('To second').press('Tab')
  await expect(page.getByText('0 is less than 1.')).toBeVisible()
})
