/**
 * Capacity as its operator handles it: set by hand, imported, a calibration begun, watched and stopped; and what the
 * plan sheet makes of it.
 */
import { choose } from './hands'
import { ownHouse } from './own-house'
import { expect, test } from './test'

const house = ownHouse({ history: false })
test.describe.configure({ mode: 'serial' })
const { call } = house

test('nothing is known at first: the plan says so, and the way to a calibration is one press with everything chosen', async ({
  page,
}) => {
  await page.goto(`${house.url}/plans/enrolment-morning`)
  const problem = page.getByRole('listitem').filter({ hasText: 'Nothing is calibrated: 60 users per vCPU is assumed.' })
  await problem.getByRole('button', { name: /^Calibrate · about \d+ min · €/ }).click()
  const dialog = page.getByRole('dialog', { name: 'Calibrate' })
  await expect(dialog).toBeVisible()
  for (const journey of ['Enrol in modules', 'Browse timetable', 'Adviser approves'])
    await expect(dialog.getByRole('checkbox', { name: journey })).toBeChecked()
  await expect(dialog.getByRole('checkbox', { name: /^brisk-1/ })).toBeChecked()
  await expect(dialog.getByText(/^3 items, one after the other: about 12 min, €/)).toBeVisible()
})

test('a capacity set by hand sizes the plan, and is marked as what it is', async ({ page }) => {
  await page.goto(`${house.url}/fleet/capacity`)
  await expect(page.getByText('Nothing is calibrated yet')).toBeVisible()
  for (const [journey, users] of [
    ['Enrol in modules', '100'],
    ['Browse timetable', '100'],
    ['Adviser approves', '100'],
  ] as const) {
    await page.getByRole('button', { name: 'By hand…' }).click()
    const dialog = page.getByRole('dialog')
    await choose(dialog.getByLabel('Journey'), journey)
    await dialog.getByLabel('Users one generator carries, before headroom').fill(users)
    await dialog.getByRole('button', { name: 'Set it' }).click()
    await expect(dialog).toBeHidden()
  }
  await expect(page.getByRole('row').filter({ hasText: 'Enrol in modules' }).getByText('set by hand')).toBeVisible()
  await page.goto(`${house.url}/plans/enrolment-morning`)
  await expect(page.getByText(/capacity was set by hand/)).toBeVisible()
  // 143 users at REY, 80 on a brisk-1 after headroom: two; before, at 60 per vCPU, three.
  await expect(page.getByText('2 ×').first()).toBeVisible()
})

test('spares, headroom and the cheapest choice change the fleet as one types, and say the difference', async ({
  page,
}) => {
  await page.goto(`${house.url}/plans/enrolment-morning`)
  await page.getByRole('textbox', { name: 'Spares' }).fill('1')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('status').filter({ hasText: /4 → 7 machines, \+€/ })).toBeVisible()
  await page.getByRole('textbox', { name: 'Spares' }).fill('forty')
  await page.keyboard.press('Enter')
  await expect(page.getByText('“forty” is no number: write one from 0 to 20.')).toBeVisible()
  await choose(page.getByRole('combobox', { name: 'Machine type at REY' }), 'cheapest')
  await page.getByRole('button', { name: 'How REY is sized' }).click()
  const dialog = page.getByRole('dialog', { name: 'Machines at REY' })
  await expect(dialog.getByText('the cheapest that carry its users')).toBeVisible()
  await expect(dialog.getByText(/143 users at its heaviest moment/)).toBeVisible()
  await expect(dialog.getByText('Safer.')).toBeVisible()
  // Other types would only be assumed from the one that is known; what rests on which is said.
  await expect(dialog.getByText(/Capacity is (assumed from a calibrated type|set by hand)\./)).toBeVisible()
  await page.keyboard.press('Escape')
  // A quota that nothing fits into: every remedy with its price, and one press takes the first.
  await page.getByRole('textbox', { name: 'Headroom, %' }).fill('90')
  await page.keyboard.press('Enter')
  await page.getByRole('textbox', { name: 'Spares' }).fill('4')
  await page.keyboard.press('Enter')
  await choose(page.getByRole('combobox', { name: 'Machine type at OSA' }), 'cheapest')
  await expect(page.getByRole('button', { name: /nothing fits/ }).first()).toBeVisible()
  await expect(page.getByText(/machines are free in osaki; they would carry at most/)).toBeVisible()
})

test('machines for the peak are said to come late, with what that saves; one press has them all through, and another lets them come late again', async ({
  page,
}) => {
  await page.goto(`${house.url}/plans/how-far`)
  const note = page.getByRole('listitem').filter({ hasText: 'ordered while the run loads, for its peak only.' })
  await expect(note).toBeVisible()
  await expect(page.getByText(/carried.*outside the peak/)).toBeVisible()
  const forecast = async () => Number(/€([\d.]+)/.exec(await page.getByText(/€[\d.]+ forecast/).innerText())![1])
  const late = await forecast()
  await page.getByRole('button', { name: 'How REY is sized' }).click()
  const dialog = page.getByRole('dialog', { name: 'Machines at REY' })
  await expect(dialog.getByText(/for the peak, \+\d\d:\d\d to \+\d\d:\d\d/)).toBeVisible()
  await expect(dialog.getByText(/^Safer\. All of them there all through: \d × brisk-1\.$/)).toBeVisible()
  const box = dialog.getByRole('checkbox', { name: /come late and leave early/ })
  await expect(box).toBeChecked()
  await box.focus()
  await page.keyboard.press('Space')
  await expect(dialog.getByText(/for the peak, \+/)).toHaveCount(0)
  await page.keyboard.press('Escape')
  await expect(note).toHaveCount(0)
  await expect.poll(forecast).toBeGreaterThan(late)
  await page.getByRole('button', { name: 'How REY is sized' }).click()
  await box.check()
  await page.keyboard.press('Escape')
  await expect(note).toBeVisible()
  await note.getByRole('button', { name: /^All through · \+€0\.\d+/ }).click()
  await expect(note).toHaveCount(0)
})

test('a calibration is begun, watched and stopped; what was seen until then is no figure', async ({ page }) => {
  test.setTimeout(120_000)
  await page.goto(`${house.url}/fleet/capacity`)
  await page.getByRole('button', { name: 'Calibrate…' }).click()
  const dialog = page.getByRole('dialog')
  await dialog.getByRole('checkbox', { name: 'Browse timetable' }).uncheck()
  await expect(dialog.getByText('Choose a journey, a type and a network.')).toBeVisible()
  await dialog.getByRole('checkbox', { name: 'Enrol in modules' }).check()
  await dialog.getByRole('button', { name: 'Begin' }).click()
  await expect(page).toHaveURL(/batch-1$/, { timeout: 30_000 })
  await expect(page.getByText('warming the code up')).toBeVisible({ timeout: 60_000 })
  await page.getByRole('button', { name: 'Stop…' }).click()
  await page.getByRole('button', { name: 'Stop it, and release its machine' }).click()
  await expect(page.getByText(/Run \d+ was stopped\./)).toBeVisible({ timeout: 30_000 })
  await expect.poll(async () => (await call<{ machinesOut: number }>('meter')).machinesOut, { timeout: 30_000 }).toBe(0)
})

test('rubbish to import is refused with what to do; headroom and think time move the recommendation', async ({
  page,
}) => {
  await page.goto(`${house.url}/fleet/capacity`)
  await page
    .getByLabel('Import capacities from a JSON file')
    .setInputFiles({ name: 'notes.json', mimeType: 'application/json', buffer: Buffer.from('not at all') })
  await expect(page.getByText('notes.json is not JSON.')).toBeVisible()
  const file = await call<{ capacities: { id: string, journeyName: string }[] }>('capacities/file.json')
  const measured = {
    ...file.capacities.find(c => c.journeyName === 'Enrol in modules')!,
    id: 'from-elsewhere',
    origin: 'calibrated',
    at: 1_795_000_000_000,
    users: 400,
    lower: 380,
    upper: 420,
    binds: 'cpuShare',
    responseMs: 500,
    thinkMs: 6000,
    signals: {
      cpuShare: { users: 400, lower: 380, upper: 420, base: 0.05 },
      memoryShare: { users: 900, lower: 800, upper: 1000, base: 0.1 },
    },
    machines: 1,
    perHour: 0.06,
    currency: 'EUR',
  }
  await page
    .getByLabel('Import capacities from a JSON file')
    .setInputFiles({
      name: 'capacities.json',
      mimeType: 'application/json',
      buffer: Buffer.from(JSON.stringify({ capacities: [measured] })),
    })
  await expect(page.getByText('1 capacity was new.')).toBeVisible()
  await page.goto(`${house.url}/fleet/capacity/from-elsewhere`)
  await expect(page.getByText('CPU binds: it meets its limit of 75 % first.')).toBeVisible()
  await expect(page.getByText('304 users', { exact: true })).toBeVisible()
  await expect(page.getByText(/75 % × 80 % = 60 %/)).toBeVisible()
  for (let at = 20; at < 50; at += 5) await page.getByRole('slider').press('ArrowRight')
  await expect(page.getByText('190 users', { exact: true })).toBeVisible()
  // Twice the pass: twice the users by CPU, until memory binds at 800 × 50 %.
  await page.getByLabel('Think time per pass, s').fill('12.5')
  await expect(page.getByText('380 users', { exact: true })).toBeVisible()
  await page.getByLabel('Think time per pass, s').fill('30')
  await expect(page.getByText('400 users', { exact: true })).toBeVisible()
  // One act to know it anew, with everything chosen as it was.
  await page.getByRole('link', { name: 'Calibrate again…' }).click()
  const dialog = page.getByRole('dialog', { name: 'Calibrate' })
  await expect(dialog.getByRole('checkbox', { name: 'Enrol in modules' })).toBeChecked()
  await expect(dialog.getByRole('checkbox', { name: 'Browse timetable' })).not.toBeChecked()
  await expect(dialog.getByLabel('Set aside: CPU stolen')).toHaveText(/over 2 %/)
  await choose(dialog.getByLabel('Set aside: CPU stolen'), 'nothing: all count')
})
