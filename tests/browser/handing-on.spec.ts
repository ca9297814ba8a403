/** A result handed on: by a link to somebody who has no account, by mail, and to a program. */
import { readFileSync } from 'node:fs'
import { parse } from 'csv-parse/sync'
import type { RunView } from '../../api/views'
import { ownHouse } from './own-house'
import { expect, test } from './test'

const house = ownHouse()

test('a link shows the report to one who has nothing else, until it is taken back', async ({ page, browser }) => {
  await page.goto(`${house.url}/runs/2`)
  await page.getByRole('button', { name: 'Share', exact: true }).click()
  const dialog = page.getByRole('dialog', { name: 'Share by a link' })
  await dialog.getByRole('button', { name: 'Make a link' }).click()
  await expect(dialog.getByText('It is shown this once.')).toBeVisible()
  const link = (await dialog.locator('b').first().textContent())!.trim()
  await expect(dialog.getByRole('listitem')).toContainText('not opened yet')

  const elsewhere = await browser.newContext()
  const guest = await elsewhere.newPage()
  const asked: string[] = []
  guest.on('request', r => r.url().includes('/api/') && asked.push(new URL(r.url()).pathname))
  await guest.goto(link)
  const { line } = (await (await fetch(`${house.url}/api/runs/2`)).json()) as { line: { sentence: string } }
  await expect(guest.frameLocator('iframe').getByText(line.sentence, { exact: true })).toBeVisible()
  const [file] = await Promise.all([
    guest.waitForEvent('download'),
    guest.getByRole('button', { name: 'PDF' }).click(),
  ])
  expect(file.suggestedFilename()).toBe('run-2.pdf')
  // It asks for nothing that the link does not open, and its secret stands in no address.
  expect(asked.length).toBeGreaterThan(1)
  expect(asked.every(path => path.startsWith('/api/shared'))).toBe(true)

  await page.reload()
  await expect(dialog.getByRole('listitem')).toContainText('opened once')
  await dialog.getByRole('button', { name: /^Take link/ }).click()
  await expect(dialog.getByRole('listitem')).toContainText('taken back')
  await guest.reload()
  await expect(guest.getByText('This link opens nothing')).toBeVisible()
  await elsewhere.close()
})

test('the mail server is changed, and its password is asked for where somebody signs in', async ({ page }) => {
  await page.goto(`${house.url}/people/sending`)
  const from = page.getByLabel('Mails come from')
  await expect(from).toHaveValue('vornak@ostervik.example')
  await page.getByLabel('Signs in as').fill('load')
  await page.getByRole('form', { name: 'Mail server' }).getByRole('button', { name: 'Save' }).click()
  // At its field, which has the focus.
  const missing = page.getByText('The password of load is missing.')
  await expect(missing).toBeVisible()
  await expect(page.getByLabel('Password')).toBeFocused()
  await page.getByLabel('Signs in as').fill('')
  await from.fill('load@ostervik.example')
  await page.getByRole('form', { name: 'Mail server' }).getByRole('button', { name: 'Save' }).click()
  await expect(missing).toBeHidden()
  await expect(page.getByRole('alert')).toHaveCount(0)
  await page.reload()
  await expect(from).toHaveValue('load@ostervik.example')
})

test('a report is mailed, and the log tells that it was taken', async ({ page }) => {
  await page.goto(`${house.url}/reports/2`)
  await page.getByRole('button', { name: 'Mail', exact: true }).click()
  const dialog = page.getByRole('dialog', { name: 'Mail the report' })
  const to = dialog.getByLabel('To, with commas between')
  await to.fill('ana@ostervik.example, registrar')
  await expect(dialog.getByText('“registrar” is no address of mail.')).toBeVisible()
  await expect(dialog.getByRole('button', { name: 'Send' })).toBeDisabled()
  await to.fill('ana@ostervik.example')
  await dialog.getByRole('button', { name: 'Send' }).click()
  await expect(dialog).toBeHidden()
  await page.goto(`${house.url}/people/sending`)
  const row = page.getByRole('row').filter({ hasText: 'ana@ostervik.example' })
  await expect(row).toContainText('taken', { timeout: 20_000 })
  const mails = (await (await fetch(`${house.mailbox}/mails`)).json()) as { to: string[], text: string }[]
  expect(mails.map(m => m.to)).toEqual([['ana@ostervik.example']])
  expect(mails[0]!.text).toContain('run-2-report.pdf')
})

test('a program is told of runs; its key is shown once, and what it does not take is said', async ({ page }) => {
  await page.goto(`${house.url}/people/sending`)
  await page.getByLabel('Name', { exact: true }).fill('gate')
  await page.getByRole('region', { name: 'Hooks' }).getByLabel('Address', { exact: true }).fill('nowhere')
  await page.getByRole('button', { name: 'Add a hook' }).click()
  await expect(page.getByText('“nowhere” is no address of a program.')).toBeVisible()
  await page.getByRole('region', { name: 'Hooks' }).getByLabel('Address', { exact: true }).fill('http://127.0.0.1:9/runs')
  await page.getByRole('button', { name: 'Add a hook' }).click()
  await expect(page.getByText('gate is signed with')).toBeVisible()
  await page.getByRole('button', { name: 'Try gate' }).click()
  await expect(page.getByRole('alert')).toContainText('has not taken it')
  await page.reload()
  await expect(page.getByText('http://127.0.0.1:9/runs')).toBeVisible()
  await expect(page.getByText('gate is signed with')).toHaveCount(0)
  await page.getByRole('button', { name: 'Remove gate' }).click()
  await page.getByRole('button', { name: 'Remove gate' }).click()
  await expect(page.getByText('None yet.')).toBeVisible()
})

test('a plan says whom its reports are mailed to', async ({ page }) => {
  await page.goto(`${house.url}/plans/enrolment-morning`)
  await page.getByRole('button', { name: /^About/ }).click()
  const field = page.getByLabel('Mail the report to, at the end')
  await field.fill('ana@ostervik.example dean')
  await field.press('Enter')
  await expect(page.getByText('“dean” is no address of mail.')).toBeVisible()
  await field.fill('ana@ostervik.example dean@ostervik.example')
  await field.press('Enter')
  await expect(field).toHaveValue('ana@ostervik.example, dean@ostervik.example')
})

test('a chart is kept as a picture, and as the numbers it is drawn from', async ({ page }) => {
  await page.goto(`${house.url}/runs/2`)
  const keep = async (as: string): Promise<{ name: string, content: Buffer }> => {
    await page.getByRole('button', { name: 'Keep this chart: run-2-distribution' }).click()
    const [file] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('menuitem', { name: as }).click(),
    ])
    return { name: file.suggestedFilename(), content: readFileSync(await file.path()) }
  }
  const svg = await keep('Picture (SVG)')
  expect(svg.name).toBe('run-2-distribution.svg')
  expect(svg.content.toString()).toMatch(/^<svg [^]*<path [^]*<\/svg>\s*$/)
  const png = await keep('Picture (PNG)')
  // PNG, W3C second edition, 5.2: its signature; 11.2.2: width and height.
  expect([...png.content.subarray(0, 8)]).toEqual([137, 80, 78, 71, 13, 10, 26, 10])
  expect(png.content.readUInt32BE(16)).toBeGreaterThan(800)
  const csv = await keep('Numbers (CSV)')
  const [head, ...rows] = parse(csv.content) as string[][]
  expect(head).toEqual(['of', 'from_ms', 'to_ms', 'right', 'failed'])
  const { line, summary } = (await (await fetch(`${house.url}/api/runs/2`)).json()) as RunView
  expect(line.id).toBe(2)
  expect(rows.reduce((sum, [,,, right, failed]) => sum + Number(right) + Number(failed), 0))
    .toBe(summary!.whole.right + summary!.whole.failed)
})

test('figures go where a keeper says; an address that is none is refused, and so is one that does not answer', async ({ page }) => {
  await page.goto(`${house.url}/people/sending`)
  const form = page.getByRole('form', { name: 'Figures' })
  await expect(form.getByText('They are sent nowhere.')).toBeVisible()
  await form.getByLabel('Address').fill('nowhere')
  await form.getByRole('button', { name: 'Save' }).click()
  await expect(form.getByText('“nowhere” is no address that figures can be sent to.')).toBeVisible()
  await form.getByLabel('Address').fill('http://127.0.0.1:9/v1/metrics')
  await form.getByLabel('Authorization').fill('Bearer made-up')
  await form.getByRole('button', { name: 'Save' }).click()
  await expect(form.getByPlaceholder('kept, sealed')).toBeVisible()
  await form.getByRole('button', { name: 'Try it' }).click()
  await expect(form.getByText(/^It was not taken/)).toBeVisible()
  await form.getByRole('button', { name: 'Forget it' }).click()
  await expect(form.getByText('They are sent nowhere.')).toBeVisible()
})
