/**
 * The plan sheet, as an engineer thinks on it: with the keyboard alone, as text, by dragging, with blocks of a
 * spreadsheet, with sixty locations; and the networks it uses.
 */
import { choose } from './hands'
import { ownHouse } from './own-house'
import { expect, test, type Page } from './test'
import type { Plan } from '../../core/plan/document'
import { DEMO_PLAN } from '../../demo/scenario'

const house = ownHouse({ history: false })

const planOf = async (id: string) =>
  ((await (await fetch(`${house.url}/api/plans/${id}`)).json()) as { plan: Plan }).plan
const make = async (plan: Plan) =>
  (
    (await (
      await fetch(`${house.url}/api/plans`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ plan }),
      })
    ).json()) as { id: string }
  ).id

/** Goes to what has this label, with the Tab key. */
async function tabTo(page: Page, label: RegExp): Promise<void> {
  for (let i = 0; i < 80; i++) {
    const here = await page.evaluate(() => {
      const e = document.activeElement as HTMLInputElement | null
      return e?.getAttribute('aria-label') ?? e?.labels?.[0]?.textContent ?? e?.textContent ?? ''
    })
    if (label.test(here.trim())) return
    await page.keyboard.press('Tab')
  }
  throw new Error(`nothing called ${label} is reached by Tab`)
}

test('the demo plan is built from nothing, with the keyboard alone', async ({ page }) => {
  await page.goto(`${house.url}/plans`)
  await page.getByText('Enrolment morning').waitFor()
  await page.keyboard.press('n')
  await tabTo(page, /^Name/)
  await page.keyboard.type('By hand')
  await page.keyboard.press('Tab')
  await page.keyboard.type(DEMO_PLAN.question)
  await page.keyboard.press('Enter')
  await expect(page).toHaveURL(/\/plans\/by-hand$/)
  await expect(page.getByText('The plan has no user group: nobody would come.')).toBeVisible()

  // Locations: the next free region each time.
  for (const code of ['REY', 'TAV', 'OSA']) {
    await page.keyboard.press('l')
    await tabTo(page, /^Three letters/)
    await expect(page.getByLabel('Three letters')).toHaveValue(code)
    await page.keyboard.press('Enter')
    await expect(page.getByRole('button', { name: new RegExp(`^Location ${code}`) })).toBeVisible()
  }
  // Groups: journey, clients and name.
  for (const [name, journey, clients] of [
    ['Students at home', 'Enrol in', ''],
    ['Students on campus', 'Enrol in', ''],
    ['Students commuting', 'Browse', 'phone browser 70, phone-app'],
    ['Advisers', 'Adviser', ''],
  ] as const) {
    await page.keyboard.press('g')
    await tabTo(page, /^Journey/)
    await page.keyboard.press('Enter')
    await page.getByRole('listbox').waitFor()
    await page.keyboard.type(journey)
    await page.keyboard.press('Enter')
    await expect(page.getByRole('listbox')).toBeHidden()
    if (clients !== '') {
      await tabTo(page, /^Clients/)
      await page.keyboard.type(clients)
      await page.keyboard.press('Tab')
    }
    await tabTo(page, /^Name/)
    await page.keyboard.press('Control+a')
    await page.keyboard.type(name)
    await page.keyboard.press('Enter')
    await expect(page.getByRole('dialog')).toBeHidden()
    await expect(page.getByRole('rowheader').filter({ hasText: name })).toBeVisible()
  }
  // The grid: levels down the first column, then a row at a time.
  await page.keyboard.press('p')
  for (const level of [
    '0 → 104 in 15 s, hold 45 s, → 0 in 5 s',
    '0 -> 68 in 12 s, hold 48 s, -> 0 in 5 s',
    'wait 4 s, to 60 in 10 s, hold 46 s, to 0 in 5 s',
    'wait 5 s, → 8 in 5 s, hold 50 s, → 0 in 5 s',
  ]) {
    await page.keyboard.type(level)
    await page.keyboard.press('Enter')
  }
  const rows = [
    ['50 city-fibre 70, copper-line 30', '35 city fibre 70', 'rest far-satellite 20, copper line 80'],
    ['100 campus wire', '', ''],
    ['35 % commuter-mobile 80, weak-mobile 20', '40 commuter mobile', 'rest commuter mobile'],
    ['25', 'rest', ''],
  ]
  for (const [r, row] of rows.entries()) {
    const column = page.getByRole('gridcell', { name: new RegExp(`^${DEMO_PLAN.groups[r]!.name}, level`) })
    for (let up = 0; up < 8 && !(await column.evaluate(e => e === document.activeElement)); up++)
      await page.keyboard.press(r === 0 || up > 0 ? 'ArrowUp' : 'ArrowDown')
    for (const text of row) {
      await page.keyboard.press('ArrowRight')
      if (text === '') continue
      await page.keyboard.type(text)
      await page.keyboard.press('Tab')
      await page.keyboard.press('ArrowLeft')
    }
    await page.keyboard.press('Home')
    await expect(column).toBeFocused()
  }
  await page.keyboard.press('Escape')
  await tabTo(page, /^Add an objective/)
  for (const objective of ['p95 of Enrol at most 1.8 s in holds', 'failures at most 0.5 % in holds']) {
    await page.keyboard.type(objective)
    await page.keyboard.press('Enter')
  }
  await expect(page.getByText('2 objectives')).toBeVisible()
  await page.keyboard.press('Shift+Tab')
  await page.keyboard.press('Escape')
  await tabTo(page, /^Save/)
  await page.keyboard.press('Enter')
  await expect(page.getByText('changed, not saved')).toBeHidden()
  await expect(page.getByText('nothing in the way')).toBeVisible()
  const built = await planOf('by-hand')
  const { groups, locations, placement, networks, objectives, question, targetId } = DEMO_PLAN
  expect(built).toMatchObject({ groups, locations, networks, objectives, question, targetId })
  for (const g of groups)
    for (const l of locations)
      expect([g.letter, l.code, built.placement[g.letter]?.[l.code] ?? 0]).toEqual([
        g.letter,
        l.code,
        placement[g.letter]?.[l.code] ?? 0,
      ])
})

test('a plan whose dialog was opened before the targets came has its target all the same', async ({ page }) => {
  let areDue = false
  await page.route('**/api/targets', async (route) => {
    await expect.poll(() => areDue).toBe(true)
    await route.continue()
  })
  await page.goto(`${house.url}/plans`)
  await page.getByText('Enrolment morning').waitFor()
  await page.keyboard.press('n')
  const dialog = page.getByRole('dialog', { name: 'New plan' })
  await expect(dialog.getByText('no target yet: choose one on the sheet later')).toBeVisible()
  await dialog.getByLabel('Name').fill('Before its target')
  await dialog.getByLabel('Question').fill('Does it hold?')
  areDue = true
  await expect(dialog.getByText(/^Enrolment portal/)).toBeVisible()
  await dialog.getByRole('button', { name: 'Begin' }).click()
  await expect(page).toHaveURL(/\/plans\/before-its-target$/)
  expect((await planOf('before-its-target')).targetId).toBe(DEMO_PLAN.targetId)
})

test('text and sheet are one plan: what is typed in either is in both, and a fault is told at its line', async ({
  page,
}) => {
  await page.goto(`${house.url}/plans/enrolment-morning`)
  await page.getByText('nothing in the way').waitFor()
  await page.keyboard.press('t')
  const text = page.getByRole('textbox', { name: 'The plan as text' })
  await text.waitFor()
  const rewrite = async (from: string, to: string) => {
    const whole = await (await fetch(`${house.url}/api/plans/enrolment-morning/text`)).text()
    expect(whole).toContain(from)
    await text.click()
    await page.keyboard.press('Control+a')
    await page.keyboard.insertText(whole.replace(from, to))
  }
  await rewrite('to: 104', 'to: 90')
  await expect(page.getByRole('gridcell', { name: /^Students at home, level over time: 0 → 90 in 15 s/ })).toBeVisible()
  await rewrite('overMs: 15000', 'overMs: 15 s')
  await expect(page.getByRole('alert')).toContainText('15 s is 15000')
  await expect(page.getByRole('alert')).toContainText(/Line \d+/)
  // The sheet still stands, and a change on it is in the text.
  await page.getByRole('gridcell', { name: /^Advisers, level over time/ }).focus()
  await page.keyboard.type('→ 77 in 5 s, hold 50 s')
  await page.keyboard.press('Enter')
  await expect(text).toContainText('77')
  await page.getByRole('button', { name: /^Close/ }).click()
})

test('a corner is dragged and moved with arrow keys; one drag is one undo', async ({ page }) => {
  await page.goto(`${house.url}/plans/how-far`)
  await page.getByRole('gridcell', { name: /^Students at home, level/ }).focus()
  const corner = page.getByRole('button', { name: /^Corner 1 of group A/ })
  await expect(corner).toHaveAccessibleName(/65 users at \+00:15/)
  const box = (await corner.boundingBox())!
  await page.mouse.move(box.x + 5, box.y + 5)
  await page.mouse.down()
  await page.mouse.move(box.x + 25, box.y - 10, { steps: 4 })
  await page.mouse.move(box.x + 45, box.y - 20, { steps: 4 })
  await page.mouse.up()
  await expect(corner).not.toHaveAccessibleName(/65 users at \+00:15/)
  const dragged = await corner.getAttribute('aria-label')
  expect(Number(/: (\d+) users/.exec(dragged!)![1])).toBeGreaterThan(65)
  await page.getByRole('button', { name: /^Undo/ }).click()
  await expect(corner).toHaveAccessibleName(/65 users at \+00:15/)
  await expect(page.getByText('changed, not saved')).toBeHidden()
  await corner.focus()
  await page.keyboard.press('ArrowUp')
  await page.keyboard.press('Shift+ArrowRight')
  await expect(corner).toHaveAccessibleName(/66 users at \+00:25/)
  // The hold behind it keeps to the new level.
  await expect(
    page.getByRole('gridcell', { name: /^Students at home, level over time: 0 → 66 in 25 s, hold 1 min 15 s/ }),
  ).toBeVisible()
})

test('a block larger than the grid fills what there is and says so; cells are copied, filled, and pinned to the rest', async ({
  page,
  context,
}) => {
  await context.grantPermissions(['clipboard-read', 'clipboard-write'])
  await page.goto(`${house.url}/plans/enrolment-morning`)
  const cell = (name: string) => page.getByRole('gridcell', { name: new RegExp(`^${name}`) })
  await cell('Students commuting at TAV').focus()
  await page.evaluate(() => navigator.clipboard.writeText('12,5\t20 %\t7\n10 weak-mobile\trest\t\n1\t2\t3'))
  await page.keyboard.press('Control+v')
  await expect(page.getByRole('status')).toContainText('5 of the 9 pasted cells lie outside the grid')
  await expect(cell('Students commuting at TAV: 12.5 %')).toBeVisible()
  await expect(cell('Advisers at TAV: 10 %.*weak-mobile')).toBeVisible()
  await page.getByRole('button', { name: /^Undo/ }).click()
  await expect(cell('Students commuting at TAV: 40 %')).toBeVisible()
  // One undo takes the whole block back.
  await expect(page.getByText('changed, not saved')).toBeHidden()

  await cell('Students at home at REY').focus()
  await page.keyboard.press('Shift+ArrowRight')
  await page.keyboard.press('Control+c')
  expect(await page.evaluate(() => navigator.clipboard.readText())).toBe(
    '50 city-fibre 70, copper-line 30\t35 city-fibre 70',
  )
  await cell('Advisers at REY').focus()
  await page.keyboard.press('>')
  await expect(cell('Advisers at OSA: 25 %')).toBeVisible()
  await page.getByRole('button', { name: 'OSA takes the rest' }).click()
  await expect(cell('Advisers at OSA: 50 %')).toBeVisible()
  // A rubbish cell in a block takes nothing of the block.
  await cell('Students at home at REY').focus()
  await page.evaluate(() => navigator.clipboard.writeText('10\tlots'))
  await page.keyboard.press('Control+v')
  await expect(page.getByRole('alert')).toContainText('no share')
  await expect(cell('Students at home at REY: 50 %')).toBeVisible()
})

test('a group is given another drive and its place; what it makes is said', async ({ page }) => {
  await page.goto(`${house.url}/plans/timetable-rush`)
  await page.getByRole('button', { name: /^Group A/ }).click()
  const dialog = page.getByRole('dialog')
  await expect(dialog).toContainText('makes about 330 passes, 660 requests')
  await dialog.getByLabel('Think times ×').fill('2')
  await dialog.getByLabel('Think times ×').press('Tab')
  await expect(dialog).toContainText('One pass takes about 10.2 s')
  await dialog.getByLabel(/^Or as real traffic/).fill('place;visits\nreyk;300\nosaki;100')
  await dialog.getByRole('button', { name: 'Place like this' }).click()
  await choose(dialog.getByLabel('Driven by'), /^users: /)
  await expect(dialog).toContainText('The level, in users')
  await dialog.getByRole('button', { name: 'Done' }).click()
  await expect(page.getByRole('gridcell', { name: /^Visitors at REY: 75 %/ })).toBeVisible()
  await expect(page.getByRole('gridcell', { name: /^Visitors at OSA: 25 %/ })).toBeVisible()
})

test('sixty locations fit: names and sums stand still, the middle scrolls, the page does not', async ({ page }) => {
  const codes = Array.from({ length: 60 }, (_, i) => `L${String.fromCharCode(65 + Math.floor(i / 26), 65 + (i % 26))}`)
  const id = await make({
    ...DEMO_PLAN,
    name: 'Sixty',
    locations: codes.map(code => ({
      code,
      provider: 'nimbral',
      region: 'reyk',
      machineType: 'brisk-1',
      machines: 'auto' as const,
    })),
    placement: Object.fromEntries(
      'ABCD'.split('').map(l => [l, Object.fromEntries(codes.map((c, i) => [c, i === 59 ? ('rest' as const) : 100]))]),
    ),
    networks: {},
  })
  await page.goto(`${house.url}/plans/${id}`)
  const last = page.getByRole('gridcell', { name: /^Students at home at LCH/ })
  await last.focus()
  await last.scrollIntoViewIfNeeded()
  await page.keyboard.type('43')
  await page.keyboard.press('Enter')
  await expect(page.getByText('Students at home: shares add up to 102 %, 2 % too much.')).toBeVisible()
  expect(await page.evaluate(() => document.documentElement.scrollWidth <= window.innerWidth)).toBe(true)
  for (const still of [
    page.getByRole('button', { name: /^Group A/ }),
    page.getByRole('columnheader', { name: /placed/ }),
  ]) {
    const box = (await still.boundingBox())!
    expect(box.x).toBeGreaterThanOrEqual(56)
    expect(box.x + box.width).toBeLessThanOrEqual(1280)
  }
})

test('a network of one’s own is made, refused while it cannot be, and told to the kernel', async ({ page }) => {
  await page.goto(`${house.url}/networks`)
  await page.getByText('campus wire').waitFor()
  await page.keyboard.press('n')
  await page.getByLabel('Name', { exact: true }).fill('night train')
  await page.getByLabel(/^Short name/).fill('night-train')
  await page.getByLabel(/^Added round trip/).fill('90')
  await page.getByLabel(/^Loss each way/).fill('100')
  await page.getByLabel(/^Download/).fill('0')
  await page.getByRole('button', { name: 'Save the profile' }).click()
  await expect(page.getByText('a pulled plug')).toBeVisible()
  await expect(page.getByText('lets nothing through')).toBeVisible()
  await page.getByLabel(/^Loss each way/).fill('1,5')
  await page.getByLabel(/^Download/).fill('3')
  await page.getByRole('button', { name: 'Save the profile' }).click()
  await expect(page.getByLabel('night train', { exact: true })).toContainText('loss 1.5% rate 3000kbit')
  await expect(page.getByRole('img', { name: /^Connected after .*1 MB after/ })).toHaveCount(7)
  await page.getByRole('button', { name: 'Remove' }).click()
  await expect(page.getByRole('button', { name: /^night train/ })).toBeHidden()
})

test('a client is made of another, refused while it cannot be, and put into a group', async ({ page }) => {
  await page.goto(`${house.url}/clients`)
  await page.getByRole('button', { name: 'phone app' }).click()
  const phone = page.getByRole('complementary', { name: 'phone app' })
  await expect(phone).toContainText('ExampleApp/3.2 (phone)')
  await phone.getByRole('button', { name: 'Make a copy' }).click()
  await page.getByLabel('Name', { exact: true }).fill('ticket machine')
  await page.getByLabel(/^Short name/).fill('plain')
  await page.getByLabel('Headers, name 3').fill('Cookie')
  await page.getByLabel('Headers, value 3').fill('a=1')
  await page.getByLabel('Headers, value 3').press('Tab')
  await page.getByRole('button', { name: 'Save the client' }).click()
  await expect(page.getByText('“plain” is the name for no client')).toBeVisible()
  await expect(page.getByText('“Cookie” is not a client’s to say')).toBeVisible()
  await page.getByLabel(/^Short name/).fill('ticket-machine')
  await page.getByLabel('Headers, name 3').fill('X-Machine')
  await page.getByLabel('Headers, name 3').press('Tab')
  await page.getByRole('button', { name: 'Save the client' }).click()
  await expect(page.getByRole('complementary', { name: 'ticket machine' })).toContainText('X-Machine')

  await page.goto(`${house.url}/plans/timetable-rush`)
  await page.getByRole('button', { name: /^Group A/ }).click()
  const clients = page.getByRole('dialog').getByLabel('Clients')
  await clients.fill('ticket 70, tablet 10')
  await clients.press('Tab')
  await expect(page.getByRole('dialog')).toContainText('There is no client “tablet”')
  await clients.fill('ticket 70, phone app')
  await clients.press('Tab')
  await expect(clients).toHaveValue('ticket-machine 70, phone-app 30')
  await page.getByRole('button', { name: 'Done' }).click()
  await expect(page.getByTitle('ticket-machine 70, phone-app 30')).toHaveText('2 clients')
  await page.keyboard.press('Control+s')
  await expect
    .poll(async () => (await planOf('timetable-rush')).groups[0]!.clients)
    .toEqual({ 'ticket-machine': 7000, 'phone-app': 3000 })

  await page.goto(`${house.url}/clients`)
  await page.getByRole('button', { name: 'ticket machine' }).click()
  await page.getByRole('button', { name: 'Remove' }).click()
  await expect(page.getByText('The client is used in')).toBeVisible()
})

test('a plan file with a fault keeps nothing and says why; a good one becomes a plan, is put away and brought back', async ({
  page,
}) => {
  await page.goto(`${house.url}/plans`)
  const text = await (await fetch(`${house.url}/api/plans/how-far/text`)).text()
  const give = (content: string) =>
    page
      .locator('input[type=file]')
      .setInputFiles({ name: 'p.yaml', mimeType: 'text/yaml', buffer: Buffer.from(content) })
  await give(text.replace('vornak-plan/3', 'vornak-plan/9'))
  await expect(page.getByRole('alert')).toContainText('Line 1 The plan was written by a newer release')
  await give(text.replace('name: How far it carries', 'name: Read from a file'))
  await expect(page).toHaveURL(/\/plans\/read-from-a-file$/)
  await page.getByRole('button', { name: /^About/ }).click()
  await page.getByRole('button', { name: 'Archive' }).click()
  await expect(page.getByText('archived', { exact: false }).first()).toBeVisible()
  await page.goto(`${house.url}/plans`)
  await page.getByText('Enrolment morning').waitFor()
  await expect(page.getByText('Read from a file')).toBeHidden()
  await page.getByLabel('archived').check()
  await expect(page.getByText('Read from a file')).toBeVisible()
})
