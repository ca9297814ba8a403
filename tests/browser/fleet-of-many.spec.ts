/**
 * A fleet of many: asked for, booted, called, loaded and given back by a simulated provider, while somebody watches.
 * The screen stays fluid, the controller's event loop free, the provider unhurried. MANY=500 measures what the design
 * asks; without it the same is tried with fewer.
 */
import { expect, test } from './test'
import { DEMO_JOURNEYS, PORTAL_ID } from '../../demo/scenario'
import { HOUSE_OF_MANY } from './house-of-many'
import { ownHouse } from './own-house'
import { hill, plan } from '../build/plans'
import { cpuTicks, MOST_STOLEN, saidOf, stolenSince } from '../build/stolen'
import { tellUndecided } from '../build/undecided'
import { callWitness, type Witness } from '../build/witness'

const MANY = Number(process.env.MANY ?? 60)
/**
 * Longest task of the page, and the controller's 99th percentile of event-loop delay, beyond what a process beside it
 * waits that does nothing, ms.
 */
const MOST_TASK_MS = 100
const MOST_DELAY_MS = 30
/** A roll call of two hundred and less, ms. */
const MOST_ROLL_CALL_MS = 5000
const PAUSE_MS = 500
const WHOLE_RUN_EVERY = 8

const house = ownHouse(HOUSE_OF_MANY)
// As those who use it have it.
test.use({ fetchesAhead: true })
let witness: Witness
test.afterAll(() => witness?.close())

test('a screen over many machines stays fluid from asking to release', async ({ page }) => {
  test.setTimeout(300_000)
  const { call } = house
  await call('rails', 'PUT', {
    rails: {
      mostMachines: 1000,
      mostUsers: 5000,
      longestRunMin: 60,
      budgetPerRun: 50,
      budgetPerDay: 50,
      currency: 'EUR',
    },
  })
  const many = plan({
    name: 'Many',
    targetId: PORTAL_ID,
    rehearse: false,
    groups: [{ letter: 'A', name: 'Lookers', journeyId: DEMO_JOURNEYS[0]!.id, profile: hill(MANY, 2, 6, 1) }],
    locations: [{ code: 'REY', provider: 'nimbral', region: 'reyk', machineType: 'brisk-1', machines: MANY }],
    placement: { A: { REY: 'rest' } },
    objectives: [],
  })
  const { id: planId } = await call<{ id: string }>('plans', 'POST', { plan: many })
  await page.addInitScript(() => {
    const tasks: number[] = ((window as unknown as { tasks: number[] }).tasks = [])
    new PerformanceObserver((list) => {
      for (const e of list.getEntries()) tasks.push(e.duration)
    }).observe({ type: 'longtask', buffered: true })
  })
  await page.goto(`${house.url}/fleet`)
  await page.getByRole('link', { name: 'Fleet', exact: true }).first().waitFor()
  // What the page, and the server's first answers, cost to begin with is not what is measured: the delay is told over
  // ten seconds, so two are passed over.
  const delay = async () => (await call<{ loopDelayP99Ms: number }>('meter')).loopDelayP99Ms
  for (let window = 0; window < 2; window++) {
    const before = await delay()
    await expect.poll(delay, { timeout: 30_000 }).not.toBe(before)
  }
  await page.evaluate(() => {
    ;(window as unknown as { tasks: number[] }).tasks.length = 0
  })
  witness = callWitness()
  const before = cpuTicks()
  const began = Date.now()
  const { id } = await call<{ id: number }>(`plans/${planId}/start`, 'POST', {})
  let worstDelay = 0
  let rollCall: [from: number, to: number] = [0, 0]
  let loaded = 0
  let looks = 0
  // What watches is the screen; this asks for the whole run now and then only.
  await expect
    .poll(
      async () => {
        const meter = await call<{ loopDelayP99Ms: number, machinesOut: number }>('meter')
        worstDelay = Math.max(worstDelay, meter.loopDelayP99Ms)
        if (++looks % WHOLE_RUN_EVERY !== 0) return 'under way'
        const { line, changes } = await call<{
          line: { state: string, endedAt?: number }
          changes: { to: string, from: string, at: number }[]
        }>(`runs/${id}`)
        const at = (state: string) => changes.find(c => c.to === state && c.from !== state)?.at
        rollCall = [at('rollCall') ?? 0, at('armed') ?? 0]
        loaded = at('loading') ?? 0
        return line.endedAt !== undefined && meter.machinesOut === 0 ? line.state : 'under way'
      },
      { timeout: 280_000, intervals: [PAUSE_MS] },
    )
    .toBe('settled')
  const tasks = await page.evaluate(() => (window as unknown as { tasks: number[] }).tasks)
  const calls = (await (await fetch(`${house.cloud}/calls`)).json()) as { taken: number, turnedAway: number }
  console.log(
    JSON.stringify({
      machines: MANY,
      wholeS: Math.round((Date.now() - began) / 1000),
      toLoadS: Math.round((loaded - began) / 1000),
      rollCallMs: rollCall[1] - rollCall[0],
      worstLoopDelayP99Ms: Number(worstDelay.toFixed(1)),
      worstOfTheWitnessMs: Number(witness.worstDelayP99Ms().toFixed(1)),
      stolen: Number(stolenSince(before).toFixed(3)),
      longestTaskMs: Math.max(0, ...tasks),
      longTasks: tasks.length,
      calls,
    }),
  )
  expect(calls.turnedAway).toBe(0)
  await expect(page.getByText('Nothing is out')).toBeVisible()
  try {
    expect(rollCall[1] - rollCall[0]).toBeLessThanOrEqual(MOST_ROLL_CALL_MS)
    expect(worstDelay - witness.worstDelayP99Ms()).toBeLessThanOrEqual(MOST_DELAY_MS)
    expect(Math.max(0, ...tasks)).toBeLessThan(MOST_TASK_MS)
  }
  catch (error) {
    const stolen = stolenSince(before)
    if (stolen < MOST_STOLEN) throw error
    tellUndecided(test.info().title, `${saidOf(stolen)}: ${(error as Error).message}`)
  }
})
