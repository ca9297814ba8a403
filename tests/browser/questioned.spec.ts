/** A result questioned: rows as one wants them, a second read on every staff, stretches, failures, a name. */
import { timeText } from '../../core/values/said-figures'
import { ownHouse } from './own-house'
import { expect, test } from './test'

const house = ownHouse()

const thin = (text: string | null) => Number((text ?? '').replaceAll(/[^\d.]/g, ''))

test('rows are what one chooses, of what one chooses; the address says so, and the server agrees', async ({ page }) => {
  await page.goto(`${house.url}/runs/2`)
  const table = page.getByRole('table', { name: 'figures' })
  await table.scrollIntoViewIfNeeded()
  await page.getByLabel('Rows', { exact: true }).click()
  await page.getByRole('option', { name: 'group' }).click()
  await expect(table.getByRole('button', { name: 'Group', exact: true })).toBeVisible()
  await page.getByLabel('Rows unfold into').click()
  await page.getByRole('option', { name: 'location' }).click()
  await page.getByLabel('Which locations count').click()
  await page.getByRole('option', { name: 'REY', exact: true }).click()
  await page.keyboard.press('Escape')
  await expect(page).toHaveURL(/rows=group/)
  await expect(page).toHaveURL(/by=location/)
  await expect(page).toHaveURL(/location=REY/)
  await page.reload()
  const rows = table.locator('tbody tr[data-expanded]')
  await expect(rows.first()).toBeVisible()
  const asked = await page.request.post(`${house.url}/api/runs/2/slices`, {
    data: { fromS: 0, toS: 3600, rows: ['group', 'location'], only: { location: ['REY'] } },
  })
  const { rows: told } = (await asked.json()) as { rows: { value: string, figures: { started: number } }[] }
  await expect(rows).toHaveCount(told.length)
  for (const [i, { value, figures }] of told.entries()) {
    await expect(rows.nth(i).locator('td').first()).toContainText(value)
    expect(thin(await rows.nth(i).locator('td').nth(2).textContent())).toBe(figures.started)
  }
  await table.getByRole('button', { name: /^Unfold A/ }).click()
  await expect(rows.nth(1)).toContainText('REY')
  await page.getByRole('button', { name: 'everything' }).click()
  await expect(page).not.toHaveURL(/location=/)
})

test('bands by limits of one’s own are what the server counts; another slice lies over them; a band opens its exchanges', async ({
  page,
}) => {
  await page.goto(`${house.url}/runs/1`)
  await page.getByRole('heading', { name: 'Distribution' }).scrollIntoViewIfNeeded()
  const limits = page.getByLabel('Limits of bands')
  await limits.fill('soon')
  await page.keyboard.press('Enter')
  await expect(page.getByText('“soon” is no duration')).toBeVisible()
  await limits.fill('1 s, 0,3 s')
  await page.keyboard.press('Enter')
  await expect(limits).toHaveValue('300 ms, 1 s')
  await page.getByLabel('Laid over').click()
  await page.getByRole('option', { name: 'location OSA' }).click()
  await page.reload()
  const of = [{ fromS: 0, toS: 3600 }, { fromS: 0, toS: 3600, only: { location: ['OSA'] } }]
  const asked = await page.request.post(`${house.url}/api/runs/1/distributions`, { data: { of, limitsMs: [300, 1000] } })
  const [all, osa] = (await asked.json()) as { failed: number, bands: { count: number }[] }[]
  const rows = page.getByRole('table', { name: 'bands' }).locator('tbody tr')
  await expect(rows).toHaveCount(4)
  await expect(rows.first()).toContainText('up to 300 ms')
  for (const [i, { count }] of all!.bands.entries()) {
    expect(thin(await rows.nth(i).locator('td').nth(1).textContent())).toBe(count)
    expect(thin(await rows.nth(i).locator('td').nth(3).textContent())).toBe(osa!.bands[i]!.count)
  }
  await rows.nth(1).getByRole('button').click()
  await expect(page.getByLabel('Latency band')).toHaveText(/300 ms to 1/)
  await expect(page.getByRole('heading', { name: 'Exchanges kept whole' })).toBeFocused()
  await expect(page.getByText(/\d+ kept/)).toBeVisible()
  await page.getByRole('button', { name: 'those of the objectives' }).click()
  await expect(limits).not.toHaveValue('300 ms, 1 s')
})

test('a section has its address; a machine’s signals and its figures are what the server says of it', async ({ page }) => {
  await page.goto(`${house.url}/runs/2#machines`)
  const heading = page.getByRole('heading', { name: 'Machines' })
  await expect(heading).toBeInViewport()
  const records = (await (await page.request.get(`${house.url}/api/runs/2/machines`)).json()) as {
    generator: number
    usersAtMost: number
  }[]
  const rows = page.getByRole('table', { name: 'machines' }).locator('tbody tr')
  await expect(rows).toHaveCount(records.length)
  for (const { generator, usersAtMost } of records)
    await expect
      .poll(async () => thin(await rows.nth(generator).locator('td').nth(4).textContent()))
      .toBe(usersAtMost)
  await page.getByRole('button', { name: 'Signals of TAV-1' }).click()
  await expect(page.getByRole('img', { name: 'Users and signals of TAV-1 over time' })).toBeVisible()
  await expect(page).toHaveURL(/signals=TAV-1/)
  await expect(page).toHaveURL(/#machines$/)
  await page.getByRole('navigation', { name: 'Sections' }).getByRole('button', { name: 'Figures' }).click()
  await expect(page.getByRole('heading', { name: 'Exact figures' })).toBeInViewport()
  await expect(page).toHaveURL(/#figures$/)
  await page.keyboard.press(']')
  await expect(page).toHaveURL(/#networks$/)
  await page.keyboard.press('[')
  await page.keyboard.press('[')
  await expect(page).toHaveURL(/#answer$/)
  // What one machine alone did.
  await page.goto(`${house.url}/runs/2?rows=step&machine=TAV-1#figures`)
  const { rows: told } = (await (await page.request.post(`${house.url}/api/runs/2/slices`, {
    data: { fromS: 0, toS: 3600, rows: ['step'], only: { machine: ['TAV-1'] } },
  })).json()) as { rows: { figures: { started: number } }[] }
  const figures = page.getByRole('table', { name: 'figures' }).locator('tbody tr[data-expanded]')
  await expect(figures).toHaveCount(told.length)
  expect(thin(await figures.first().locator('td').nth(2).textContent())).toBe(told[0]!.figures.started)
})

test('a second is read on every staff: by arrows, by typing it, by pointing; Esc lets it go', async ({ page }) => {
  await page.goto(`${house.url}/runs/2`)
  const stave = page.getByRole('group', { name: /^Charts of the run/ })
  await stave.focus()
  await page.keyboard.press('Home')
  await page.keyboard.press('Shift+ArrowRight')
  await expect(stave.getByText('at +00:11').first()).toBeVisible()
  const seconds = (await (await page.request.get(`${house.url}/api/runs/2/seconds?from=299&to=300`)).json()) as {
    usersByLocation: number[]
    started: number
  }[]
  await stave.getByRole('textbox', { name: 'at' }).fill('5:00')
  await page.keyboard.press('Enter')
  await expect(stave.getByText('at +05:00').first()).toBeVisible()
  const present = stave.locator('.legend', { hasText: 'present' }).locator('b')
  expect(thin(await present.textContent())).toBe(seconds[0]!.usersByLocation.reduce((a, b) => a + b, 0))
  await stave.getByRole('textbox', { name: 'at' }).fill('noon')
  await page.keyboard.press('Enter')
  await expect(page.getByText('Write a run time, such as +12:52.')).toBeVisible()
  await page.keyboard.press('Escape')
  await stave.focus()
  await page.keyboard.press('Escape')
  await expect(stave.getByText('most in window')).toBeVisible()
  // Pointing reads, a click holds it, and the window stays.
  const box = (await stave.boundingBox())!
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2)
  await expect(stave.getByText(/^at \+/).first()).toBeVisible()
  await page.mouse.down()
  await page.mouse.up()
  await page.mouse.move(box.x + box.width / 2, box.y + box.height + 40)
  await expect(stave.getByText(/^at \+/).first()).toBeVisible()
  await expect(page).not.toHaveURL(/from=/)
})

test('staffs are written and chosen as one wishes, say what the server says, and are kept under a name', async ({ page }) => {
  await page.goto(`${house.url}/runs/2`)
  const stave = page.getByRole('group', { name: /^Charts of the run/ })
  await expect(stave.getByRole('heading', { name: 'Users' })).toBeVisible()
  await stave.focus()
  await page.keyboard.press('+')
  const editor = page.getByRole('group', { name: /^Staff / })
  const words = editor.getByLabel('in words')
  await words.fill('p95, Enroll')
  await words.press('Enter')
  await expect(editor.getByText(/“Enroll” is no statistic, no measure/)).toBeVisible()
  await words.fill('mean, first byte, REY, by group, limit 250 ms')
  await words.press('Enter')
  await expect(editor).toHaveAccessibleName('Staff mean, first byte, REY, by group, limit 250 ms')
  await editor.getByLabel('Measure').click()
  await page.getByRole('option', { name: 'answered in' }).click()
  await editor.getByRole('button', { name: 'tall' }).click()
  await editor.getByRole('button', { name: 'Up', exact: true }).click()
  await page.keyboard.press('Escape')
  await expect(page).toHaveURL(/staffs=/)
  await page.reload()
  const name = stave.getByRole('button', { name: 'mean answered in' })
  await expect(name).toBeVisible()
  // Over the whole run, exact.
  const legend = stave.locator('.heading', { hasText: 'mean answered in' }).locator('.legend')
  const ask = { toS: 3600, fromS: 0, binS: 3600, staffs: [{ statistics: ['mean'], measure: 'answered', split: 'group', only: { location: ['REY'] } }] }
  const { courses } = (await (await page.request.post(`${house.url}/api/runs/2/courses`, { data: ask })).json()) as {
    courses: { lines: { value: string, values: number[] }[] }[]
  }
  const said = (ms: number) => (ms >= 1000 ? `${(ms / 1000).toFixed(2)} s` : ms >= 100 ? `${ms.toFixed(0)} ms` : `${ms.toFixed(1)} ms`)
  await expect(legend.locator('b')).toHaveText(said(courses[0]!.lines[0]!.values[0]!))
  await legend.getByRole('button', { name: 'Emphasise the next line' }).click()
  await expect(legend.locator('b')).toHaveText(said(courses[0]!.lines[1]!.values[0]!))
  // Kept, and shown again.
  await page.getByRole('button', { name: 'Staffs' }).click()
  await page.getByRole('menuitem', { name: 'Keep these staffs' }).click()
  await page.getByLabel('Name').fill('first looks')
  await page.keyboard.press('Enter')
  await page.getByRole('button', { name: 'Staffs' }).click()
  await page.getByRole('menuitem', { name: 'who and how much' }).click()
  await expect(name).toBeHidden()
  await expect(stave.getByRole('heading', { name: 'bodies received per s' })).toBeVisible()
  await page.getByRole('button', { name: 'Staffs' }).click()
  await page.getByRole('menuitem', { name: 'first looks' }).hover()
  await page.getByRole('menuitem', { name: 'Show', exact: true }).click()
  await name.click()
  await editor.getByRole('button', { name: 'Take away' }).click()
  await expect(name).toBeHidden()
  await page.getByRole('button', { name: 'Bring it back' }).click()
  await expect(name).toBeVisible()
})

test('staffs of a step’s times say what it took unloaded; clients are told apart', async ({ page }) => {
  await page.goto(`${house.url}/runs/1`)
  const { unloaded } = (await (await page.request.get(`${house.url}/api/runs/1`)).json()) as {
    unloaded: { location: string, step: string, ms: number }[]
  }
  const enrol = unloaded.filter(u => u.step === 'Enrol')
  expect(enrol.map(u => u.location).sort()).toEqual(['OSA', 'REY', 'TAV'])
  const mean = enrol.reduce((sum, u) => sum + u.ms, 0) / enrol.length
  const legends = page.locator('.legend', { hasText: 'unloaded' })
  await expect(legends.first()).toHaveText(`unloaded${timeText(mean)}`)
  await expect(legends.nth(1)).toHaveText(`unloaded${timeText(enrol.find(u => u.location === 'REY')!.ms)}`)
  await page.goto(`${house.url}/runs/1?rows=client&by=group`)
  const rows = page.getByRole('table', { name: 'figures' }).locator('tbody tr[data-expanded]')
  await expect(rows).toHaveCount(3)
  await expect(rows.first()).toContainText('not said')
  await expect(rows.nth(1)).toContainText('phone browser')
})

test('the charts are zoomed to the window and out again; the cursor goes from mark to mark', async ({ page }) => {
  await page.goto(`${house.url}/runs/2?from=200&to=300`)
  const stave = page.getByRole('group', { name: /^Charts of the run/ })
  await page.getByRole('button', { name: 'zoom to the window' }).click()
  await expect(page).toHaveURL(/zoom=200-300/)
  await page.mouse.move(5, 5)
  await stave.focus()
  await page.keyboard.press('PageDown')
  await expect(stave.locator('.moment-label')).toContainText(/held|broken/)
  await page.keyboard.press('Escape')
  await expect(page).toHaveURL(/zoom=200-300/)
  await page.keyboard.press('Escape')
  await expect(page).not.toHaveURL(/zoom=/)
  // The window is the same, until it is let go too.
  await expect(page).toHaveURL(/from=200/)
  const box = (await stave.boundingBox())!
  await page.keyboard.down('Shift')
  await page.mouse.move(box.x + 400, box.y + 60)
  await page.mouse.down()
  await page.mouse.move(box.x + 600, box.y + 60)
  await page.mouse.up()
  await page.keyboard.up('Shift')
  await expect(page).toHaveURL(/zoom=\d+-\d+/)
  await page.keyboard.press('z')
  await expect(page).not.toHaveURL(/zoom=/)
})

test('passes under way at a moment are those the server kept; one is drawn out, and opens its exchanges', async ({ page }) => {
  await page.goto(`${house.url}/runs/2?moment=%2B05:30#passes`)
  const list = page.getByRole('listbox', { name: 'Passes' })
  const told = (await (await page.request.get(`${house.url}/api/runs/2/passes?most=60&atS=330`)).json()) as {
    total: number
    passes: { user: number, group: string, exchanges: { step: string, endedAtMs: number, beganAtMs: number }[] }[]
  }
  expect(told.total).toBeGreaterThan(3)
  await expect(list.getByRole('option')).toHaveCount(Math.min(60, told.total))
  await list.getByRole('option').first().focus()
  await page.keyboard.press('ArrowDown')
  const second = told.passes[1]!
  await expect(page.getByText(`user ${second.user}, pass`)).toBeVisible()
  const rows = page.locator('table.fall tbody tr')
  await expect(rows).toHaveCount(second.exchanges.length)
  for (const [i, e] of second.exchanges.entries()) {
    await expect(rows.nth(i)).toContainText(e.step)
    await expect(rows.nth(i).locator('td b').last()).not.toHaveText('–')
  }
  await page.getByRole('button', { name: 'A second later' }).click()
  await expect(page).toHaveURL(/moment=%2B05:31/)
  await page.getByLabel('Moment').fill('99:99')
  await page.keyboard.press('Enter')
  await expect(page.getByText('Write a run time, such as +12:52.')).toBeVisible()
  await page.keyboard.press('Escape')
  await page.getByRole('button', { name: 'as sent and received' }).click()
  await expect(page.getByRole('button', { name: /^of user . \d+, pass \d+ alone: show all$/ })).toBeVisible()
})

test('stretches in which an objective was broken stand with the answer, and each becomes the window', async ({ page }) => {
  await page.goto(`${house.url}/runs/2`)
  const stretches = page.getByRole('region', { name: 'Broken stretches' })
  await expect(stretches).toContainText(/Broken (once|twice|\d+ times) where it is judged/)
  await page.keyboard.press('x')
  await expect(page).toHaveURL(/from=\d+&to=\d+/)
  // Whichever one presses, its own seconds are chosen.
  const seconds = (text: string) => text.trim().slice(1).split(':').reduce((sum, part) => sum * 60 + Number(part), 0)
  for (const stretch of await stretches.getByRole('button', { name: / to / }).all()) {
    const [from, to] = (await stretch.textContent())!.split(' to ').map(seconds)
    await stretch.click()
    await expect(page).toHaveURL(new RegExp(`from=${from}&to=${to}`))
  }
})

test('a run is given a name, notes and tags, and is found by them', async ({ page }) => {
  await page.goto(`${house.url}/runs/2`)
  await page.getByRole('button', { name: /name, notes, tags/ }).click()
  const dialog = page.getByRole('dialog')
  await dialog.getByLabel('Name').fill('Second queue open')
  await dialog.getByLabel(/^Tags/).fill('cold, staging')
  await dialog.getByLabel('Notes').fill('The fifth replica was 40 s late.')
  await dialog.getByLabel(/^Pinned/).check()
  await dialog.getByRole('button', { name: 'Save' }).click()
  await expect(dialog).toBeHidden()
  await expect(page.getByText('Second queue open')).toBeVisible()
  await expect(page.getByText('The fifth replica was 40 s late.')).toBeVisible()
  await page.goto(`${house.url}/runs`)
  await expect(page.getByRole('row').filter({ hasText: 'Second queue open' })).toContainText('cold')
  await page.getByLabel('Which tags').click()
  await page.getByRole('option', { name: 'staging' }).click()
  await page.keyboard.press('Escape')
  const rows = page.locator('tbody tr[data-expanded]')
  await expect(rows).toHaveCount(1)
  await page.reload()
  await expect(rows).toHaveCount(2)
  // One of the two is of today, as the demo's runs go: what is older is left out.
  const lines = (await (await page.request.get(`${house.url}/api/runs`)).json()) as { createdAt: number }[]
  const { now } = (await (await page.request.get(`${house.url}/api/runs/1`)).json()) as { now: number }
  await page.getByLabel('When').click()
  await page.getByRole('option', { name: 'in the last day' }).click()
  await expect(rows).toHaveCount(lines.filter(l => l.createdAt >= now - 86_400_000).length)
})
