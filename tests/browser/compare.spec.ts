/** Runs beside each other: chosen in the list, held against one, drawn. */
import { readFileSync } from 'node:fs'
import type { RunLine, RunView, WindowView } from '../../api/views'
import { choose } from './hands'
import { ownHouse } from './own-house'
import { expect, test } from './test'

const house = ownHouse()

test('two runs are chosen in the list; what differed comes first, and the address holds all of it', async ({ page }) => {
  await page.goto(`${house.url}/runs`)
  await page.getByLabel('Compare run 1').click()
  await expect(page.getByRole('link', { name: 'Compare 1 with …' })).toHaveAttribute('aria-disabled', 'true')
  await page.getByLabel('Compare run 2').click()
  await page.getByRole('link', { name: 'Compare 1, 2' }).click()
  await expect(page.getByRole('heading', { name: 'What differed' })).toBeVisible()
  await expect(page.getByText('They are of different plans: not the same question.')).toBeVisible()
  await expect(page.getByText(/2 more of run 1 would/)).toBeVisible()
  // Everything in the set-up, and back.
  await expect(page.getByRole('row', { name: /^target / })).toHaveCount(0)
  await page.keyboard.press('d')
  await expect(page.getByRole('row', { name: /^target / })).toBeVisible()
  // A row is drawn by a press.
  await page.getByRole('button', { name: 'right answers of all requests' }).click()
  await expect(page.getByRole('heading', { name: 'right answers of all requests' })).toBeVisible()
  await expect(page.locator('canvas')).toBeVisible()
  // Held the other way round.
  await page.keyboard.press('h')
  await expect(page.getByRole('heading', { name: 'Run 1 against run 2' })).toBeVisible()
  await page.reload()
  await expect(page.getByRole('heading', { name: 'Run 1 against run 2' })).toBeVisible()
  await expect(page.getByRole('heading', { name: 'right answers of all requests' })).toBeVisible()
})

test('runs are laid over each other by time, by the levels they held, and by users', async ({ page }) => {
  await page.goto(`${house.url}/runs/compare?runs=1,2`)
  const over = page.getByLabel('Laid over each other by')
  const drawn = async () => {
    await page.getByRole('button', { name: /^Keep this chart/ }).click()
    const [file] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('menuitem', { name: 'Numbers (CSV)' }).click(),
    ])
    const lines = readFileSync(await file.path(), 'utf8').trim().split(/\r?\n/).map(l => l.split(','))
    const ofRun = (id: number) => lines.filter(l => l[0] === String(id)).map(l => l.map(Number))
    return { head: lines[0], ofRun }
  }
  await expect(page.locator('canvas')).toBeVisible()
  expect((await drawn()).head).toEqual(['run', 'at_s', 'value'])
  await choose(over, 'by level')
  await expect(page).toHaveURL(/over=levels/)
  await expect.poll(async () => (await drawn()).head).toEqual(['run', 'users', 'value'])
  // As the answers judged them: the objective of both is the p95 of one step.
  for (const id of [1, 2]) {
    const { summary } = (await (await fetch(`${house.url}/api/runs/${id}`)).json()) as RunView
    const judged = summary!.answer.judgements.filter(j => j.objective.metric === 'p95')
    const own = (await drawn()).ofRun(id)
    expect(own.map(l => l[1])).toEqual(judged.map(j => j.level.users))
    judged.forEach(({ measured }, i) => expect(own[i]![2]! * 1000).toBeCloseTo(measured!, 3))
  }
  await choose(over, 'by users')
  await expect(page.getByText('as rings')).toBeVisible()
  await expect.poll(async () => (await drawn()).ofRun(2).length).toBeGreaterThan(100)
  expect(Math.max(...(await drawn()).ofRun(2).map(l => l[1]!))).toBe(600)
  await page.reload()
  await expect(over).toHaveText(/by users/)
})

test('the list says how a run stands to the baseline of its plan', async ({ page }) => {
  // As if both were of one plan, and the first its baseline.
  await page.route('**/api/runs', async (route) => {
    const answer = await route.fetch()
    const runs = (await answer.json()) as RunLine[]
    await route.fulfill({ json: runs.map(r => (r.id === 2 ? { ...r, baseline: 1 } : { ...r, isBaseline: true })) })
  })
  await page.goto(`${house.url}/runs`)
  const standing = page.getByRole('row', { name: /Up to how many/ }).getByRole('link', { name: 'not to be told yet' })
  await expect(standing).toHaveAttribute('title', /2 more of run 1 would/)
  await standing.click()
  await expect(page.getByRole('heading', { name: 'Run 2 against run 1' })).toBeVisible()
  await page.unrouteAll({ behavior: 'ignoreErrors' })
})

test('from a result it is gone to with that run, and another is chosen there', async ({ page }) => {
  await page.goto(`${house.url}/runs/2`)
  await page.getByRole('link', { name: 'Compare with …' }).click()
  await expect(page.getByText('Choose a run to hold against run 2')).toBeVisible()
  await page.getByLabel('Add a run').click()
  await page.getByRole('option', { name: /^1 ·/ }).click()
  await expect(page.getByRole('heading', { name: 'Run 1 against run 2' })).toBeVisible()
})

test('a number that is no run is said, and nothing breaks', async ({ page }) => {
  await page.goto(`${house.url}/runs/compare?runs=1,999,rubbish`)
  await expect(page.getByRole('alert')).toContainText('999')
  // A level they have not in common: said, and there is a way on.
  await page.goto(`${house.url}/runs/compare?runs=1,2&users=99`)
  await expect(page.getByRole('alert')).toContainText('Not all of them held 99 users')
  await page.getByRole('button', { name: 'At the highest level they have in common' }).click()
  await expect(page.getByRole('heading', { name: 'What differed' })).toBeVisible()
})

test('a plan tells how it has gone, run by run', async ({ page }) => {
  await page.goto(`${house.url}/plans/enrolment-morning`)
  await page.getByRole('link', { name: 'over time' }).click()
  await expect(page.getByRole('heading', { name: 'Enrolment morning, over 1 run' })).toBeVisible()
  await expect(page.getByText(/^Run 1: where it was to be expected is not known; 3 runs before it/)).toBeVisible()
  await expect(page.getByRole('row', { name: /^p95 of Enrol at most 1.8 s in holds/ }).getByRole('img')).toHaveAccessibleName(/^run 1 \d/)
  await expect(page.getByRole('heading', { name: 'Steps and spans at 240 users, run by run' })).toBeVisible()
  const { summary, document } = (await (await fetch(`${house.url}/api/runs/1`)).json()) as RunView
  const { id } = document.journeys.find(j => j.name === 'Browse timetable')!
  const { fromS, toS } = summary!.answer.judgements[0]!.level
  const { steps } = (await (
    await fetch(`${house.url}/api/runs/1/window?from=${fromS}&to=${toS}`)
  ).json()) as WindowView
  const { p95Ms } = steps.find(s => s.step === 'Timetable' && s.journeyId === id)!.figures
  const row = page.getByRole('row', { name: /^p95 of Timetable on Browse timetable 240 / })
  await expect(row).toContainText(`${p95Ms!.toFixed(0)} ms`)
  await page.getByRole('link', { name: '1', exact: true }).click()
  await expect(page).toHaveURL(/runs\/1$/)
})

test('a run is watched in large type, and is gone to from there', async ({ page }) => {
  const { line } = (await (await fetch(`${house.url}/api/runs/2`)).json()) as { line: { sentence: string } }
  await page.goto(`${house.url}/watch/2`)
  await expect(page.getByText(line.sentence, { exact: true })).toBeVisible()
  await expect(page.getByRole('region', { name: 'Figures' }).getByText('of', { exact: false }).first()).toBeVisible()
  await expect(page.getByRole('region', { name: 'Figures' })).toContainText('p95 of Enrol')
  await expect(page.getByRole('navigation', { name: 'Places' })).toHaveCount(0)
  await page.getByRole('link', { name: 'All of run 2' }).click()
  await expect(page.getByRole('navigation', { name: 'Places' })).toBeVisible()
})

test('a run is made the baseline of its plan, which its result and the list say', async ({ page }) => {
  await page.goto(`${house.url}/runs/2`)
  await page.getByRole('button', { name: 'Make it the baseline' }).click()
  await expect(page.getByText('The baseline of its plan', { exact: true })).toBeVisible()
  await expect(page.getByRole('button', { name: 'Make it the baseline' })).toHaveCount(0)
  await page.goto(`${house.url}/runs`)
  await expect(page.getByRole('row', { name: /How far|Up to how many/ }).getByText('baseline', { exact: true })).toBeVisible()
  await page.goto(`${house.url}/runs/2`)
  await page.getByRole('button', { name: 'No more' }).click()
  await expect(page.getByRole('button', { name: 'Make it the baseline' })).toBeVisible()
})
