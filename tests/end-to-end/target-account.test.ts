/**
 * The target's own account, on real processes: the portal's page is read beside a run while it restarts, fails and
 * grows; connections are at rest before and after; and its own count agrees with ours to the request.
 */
import { existsSync } from 'node:fs'
import { join } from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import type { RunView, TargetView, ThreeWayView } from '../../api/views'
import type { SeriesChoice } from '../../core/target/source'
import type { Plan } from '../../core/plan/document'
import { demoTarget } from '../../demo/scenario'
import { House, until } from '../build/house'
import { hill, journey, plan, step } from '../build/plans'

const think = { kind: 'uniform' as const, fromMs: 100, toMs: 300 }
const looking = journey({
  id: 'looking',
  name: 'Looking',
  round: [step({ name: 'Look', url: '/timetable', think }), step({ name: 'Ask', url: '/modules', think })],
})
const LOAD_S = 24
const watched: Plan = plan({
  targetId: 'enrolment-portal',
  rehearse: true,
  targetFigures: { beforeS: 8 },
  groups: [{ letter: 'A', name: 'Lookers', journeyId: 'looking', profile: hill(20, 3, LOAD_S - 6, 3) }],
  locations: [{ code: 'REY', provider: 'nimbral', region: 'reyk', machineType: 'brisk-1', machines: 1 }],
  placement: { A: { REY: 'rest' } },
  objectives: [{ metric: 'p95', step: 'Look', atMost: 2000 }],
})

let house: House
beforeAll(async () => {
  house = await House.build({
    plans: { watched, unmarked: { ...watched, targetId: 'unmarked', rehearse: false }, unasked: unwatched(watched) },
    journeys: [looking],
    portal: { replicas: 1, mostReplicas: 2, scaleUpAtBusy: 0.2, scaleUpAfterMs: 2000, scaleDownAfterMs: 4000 },
  })
  // A process that was given memory seldom gives it back: nobody waits for that here.
  await saveTarget('enrolment-portal', ({ name }) => name !== 'memory')
}, 120_000)
afterAll(() => house.close())

function unwatched({ targetFigures: _, ...rest }: Plan): Plan {
  return { ...rest, groups: [{ ...rest.groups[0]!, profile: hill(2, 1, 2, 1) }] }
}

/** The demo's portal under an id, with some of its series. */
async function saveTarget(
  id: string,
  isTaken: (choice: SeriesChoice) => boolean,
  as: (choice: SeriesChoice) => SeriesChoice = c => c,
): Promise<void> {
  const target = demoTarget(`http://127.0.0.1:${house.ports.portal}`, '2999-01-01T00:00:00.000Z')
  const sources = target.sources!.map(s => ({ ...s, series: s.series.filter(isTaken).map(as) }))
  const { status, body } = await house.post(`targets/${id}`, { target: { ...target, id, sources } }, 'PUT')
  if (status !== 200) throw new Error(JSON.stringify(body))
}

const portal = (path: string, init?: RequestInit) => fetch(`http://127.0.0.1:${house.ports.portal}${path}`, init)
const faults = (of: object) => portal('/metrics/faults', { method: 'POST', body: JSON.stringify(of) })
/** By the portal's own log: when it began to serve with one more, since then, ms since 1970. */
async function grown(since: number): Promise<number[]> {
  const log = (await (await portal('/replicas')).json()) as { at: number, replicas: number }[]
  return log.filter(l => l.replicas === 2 && l.at >= since && l.at <= Date.now()).map(l => l.at)
}
const account = (id: number) => house.get<TargetView>(`runs/${id}/target`)
const series = (view: TargetView, name: string) => view.series.find(s => s.name === name)!
/** At a run second. */
const atSecond = (id: number, second: number) =>
  until(
    async () => {
      const { startAt } = (await house.run(id)).line
      return startAt !== undefined && Date.now() >= startAt + second * 1000
    },
    90_000,
    `second ${second} of run ${id}`,
  )
const noLongerRead = (id: number) => until(async () => !(await account(id)).isReading, 60_000, 'the target to be as before')

describe('a run whose plan asks for it', () => {
  let id: number
  let run: RunView
  let view: TargetView
  beforeAll(async () => {
    id = await house.startPlan('watched')
    await atSecond(id, 6)
    await faults({ restart: true })
    // Growing is held to a time: the page is not made to fail where it could not tell of it.
    await until(async () => (await grown((await house.run(id)).line.startAt!)).length > 0, 30_000, 'a replica more')
    await sleep(2500)
    await faults({ fails: true })
    await sleep(4000)
    await faults({})
    // Somebody else, without the run's mark: told apart, and in nobody's way.
    for (let i = 0; i < 11; i++) await portal('/timetable', { headers: { 'vornak-step': 'Look' } })
    run = await house.ended(id)
    await noLongerRead(id)
    view = await account(id)
  }, 300_000)

  it('starts its load only when rest was read long enough', () => {
    const connections = series(view, 'connections').lines[0]!
    // Eight seconds from when reading began; the first value takes a moment, and two on a busy computer.
    expect(connections.atS[0]).toBeLessThanOrEqual(-6)
    expect(connections.atS.filter(s => s < 0).length).toBeGreaterThanOrEqual(5)
  })

  it('has connections at rest before and after, and its users between', () => {
    const { recovery, atS, values } = series(view, 'connections').lines[0]!
    expect(recovery!.value).toBeLessThanOrEqual(4)
    const held = values.filter((v, i) => v !== null && atS[i]! > 17 && atS[i]! < LOAD_S - 4) as number[]
    expect(Math.min(...held)).toBeGreaterThanOrEqual(20)
    expect(Math.max(...held)).toBeLessThanOrEqual(26)
    expect(recovery!.atS).toBeGreaterThanOrEqual(LOAD_S - 1)
    expect(recovery!.atS).toBeLessThan(LOAD_S + 20)
  })

  it('CPU follows the load', () => {
    const { atS, values } = series(view, 'CPU').lines[0]!
    const mean = (from: number, to: number) => {
      const inside = values.filter((v, i) => v !== null && atS[i]! >= from && atS[i]! < to) as number[]
      return inside.reduce((a, b) => a + b, 0) / inside.length
    }
    expect(mean(4, 10)).toBeGreaterThan(10 * mean(-6, -2) + 5)
  })

  it('a replica that was added is marked within 2 s of the portal’s own page', async () => {
    const step = view.steps.find(s => s.to > s.from)!
    expect(step).toMatchObject({ from: 1, to: 2, series: 'replicas' })
    expect(step.atS).toBeGreaterThan(0)
    expect(step.atS).toBeLessThan(LOAD_S)
    const [first] = await grown(run.line.startAt!)
    expect(Math.abs(run.line.startAt! + step.atS * 1000 - first!)).toBeLessThan(2000)
  })

  it('a page that fails is an event and leaves a gap, and so is a counter that begins anew', () => {
    const events = run.changes.map(c => c.event)
    expect(events).toContain('sourceAnew')
    expect(run.changes.find(c => c.event === 'sourceSilent')).toMatchObject({
      about: 'portal metrics',
      reason: expect.stringMatching(/answers 500/) as string,
    })
    expect(events.indexOf('sourceHeard')).toBeGreaterThan(events.indexOf('sourceSilent'))
    const { atS, values } = series(view, 'connections').lines[0]!
    const gap = values.findIndex(v => v === null)
    expect(atS[gap]).toBeGreaterThan(9)
    expect(atS[gap]).toBeLessThan(16)
    expect(view.sources[0]).toMatchObject({ failures: expect.any(Number) as number })
    expect(view.sources[0]!.failures).toBeGreaterThanOrEqual(2)
  })

  it('balances: what was started, answered, merged and counted there is one number; a restart takes what came before it', async () => {
    const { steps } = await house.get<ThreeWayView>(`runs/${id}/three-way`)
    const received = await house.receivedByStep(id)
    expect(steps.map(s => s.step).sort()).toEqual(['Ask', 'Look'])
    for (const s of steps) {
      expect(s.started).toBe(received[s.step])
      expect(s.answered).toBe(s.started)
      expect(s.others.how).toBe('mark')
      // At most one beat of its page was counted and never told.
      const lost = s.started - s.counted
      expect(lost).toBeGreaterThanOrEqual(0)
      expect(lost).toBeLessThan(120)
      expect(s.openBy).toBe(-lost || 0)
    }
  })

  it('is kept beside the run, and goes with it', () => {
    expect(existsSync(join(house.folder, 'runs', `run-${id}-target.db`))).toBe(true)
  })
})

describe('a target whose count does not tell callers apart', () => {
  let id: number
  beforeAll(() => saveTarget('unmarked', c => c.name === 'calls', ({ labels: _, ...c }) => c))

  it('holds what others call in an interval from before the load', async () => {
    // Four a second, before and under the load.
    let isOn = true
    const calling = (async () => {
      while (isOn) {
        await portal('/timetable', { headers: { 'vornak-step': 'Look' } })
        await new Promise(r => setTimeout(r, 250))
      }
    })()
    id = await house.startPlan('unmarked')
    await house.ended(id)
    await noLongerRead(id)
    isOn = false
    await calling
    const { steps } = await house.get<ThreeWayView>(`runs/${id}/three-way`)
    const look = steps.find(s => s.step === 'Look')!
    expect(look.others.how).toBe('rate')
    const others = look.counted - look.started
    expect(others).toBeGreaterThan(60)
    expect(look.others.least).toBeLessThanOrEqual(others)
    expect(look.others.most).toBeGreaterThanOrEqual(others)
    expect(look.state).toBe('explained')
    // Nobody else asked: within its interval, around nothing.
    expect(steps.find(s => s.step === 'Ask')).toMatchObject({ state: 'explained', others: { least: 0 } })
  }, 300_000)
})

it('a run whose plan does not ask reads nothing', async () => {
  const id = await house.startPlan('unasked')
  await house.ended(id)
  expect(await account(id)).toEqual({ isReading: false, sources: [], series: [], steps: [] })
  expect((await house.get<ThreeWayView>(`runs/${id}/three-way`)).missing).toMatch(/not read beside this run/)
}, 200_000)
