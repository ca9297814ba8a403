/**
 * Links that die without a word, and generators that stand still: nobody's users are counted twice or driven twice, and
 * what is not known is said to be unknown. The portal's own count is the independent side.
 */
import { DEMO_JOURNEYS, PORTAL_ID } from '../../demo/scenario'
import type { Plan } from '../../core/plan/document'
import { cable, type Cable } from '../build/cable'
import { House } from '../build/house'
import { hill, journey, plan, step } from '../build/plans'
import { exactly, timed } from '../build/timed'

const RATE = 20
const glance = journey({
  id: 'glance',
  name: 'Glance',
  round: [step({ name: 'Timetable', think: { kind: 'fixed', ms: 500 } })],
})
const two: Partial<Plan> = {
  targetId: PORTAL_ID,
  rehearse: false,
  objectives: [],
  assumedUsersPerVcpu: 50,
  locations: [{ code: 'REY', provider: 'nimbral', region: 'reyk', machineType: 'brisk-1', machines: 2 }],
  placement: { A: { REY: 10_000 } },
}
const plans: Record<string, Plan> = {
  arriving: plan({
    ...two,
    groups: [
      {
        letter: 'A',
        name: 'Comers',
        journeyId: 'glance',
        profile: hill(RATE, 0, 125, 0),
        drive: { kind: 'arrivals', spacing: 'even', mostInFlight: 500 },
      },
    ],
  }),
  staying: plan({
    ...two,
    groups: [{ letter: 'A', name: 'Lookers', journeyId: 'glance', profile: hill(20, 1, 70, 1) }],
  }),
}
let house: House
let line: Cable
beforeAll(async () => {
  line = await cable(() => house.ports.door)
  house = await House.build({
    plans,
    journeys: [...DEMO_JOURNEYS, glance],
    env: { VORNAK_GENERATORS_ADDRESS: `https://127.0.0.1:${line.port}` },
  })
}, 60_000)
afterAll(async () => {
  await house?.close()
  line?.close()
}, 30_000)
const sum = (counts: Record<string, number>) => Object.values(counts).reduce((a, b) => a + b, 0)

/** So late is what a generator sends that shares two CPUs with other tests, s. */
const MOST_LATE_S = 0.5

timed(
  'a link that is dead for 90 s never brings more than the plan: the generator drives on for its grace, and only then do others take over',
  async () => {
    const id = await house.startPlan('arriving')
    await house.runUntil(id, r => r.line.startAt !== undefined && r.now - r.line.startAt > 8000, 'to load for 8 s')
    // Counted at some moment between asking and hearing of it.
    const received: { askedAt: number, n: number, at: number }[] = []
    const look = async () => {
      const askedAt = performance.now()
      received.push({ askedAt, n: sum(await house.receivedByStep(id)), at: performance.now() })
    }
    line.cut()
    const cutAt = performance.now()
    while (performance.now() - cutAt < 90_000) {
      await look()
      await new Promise(r => setTimeout(r, 500))
    }
    line.restore()
    const run = await house.ended(id)
    await exactly(async () => {
      const [target, merged] = [sum(await house.receivedByStep(id)), sum(await house.mergedByStep(id))]
      expect(target).toBeLessThanOrEqual(RATE * 125)
      expect(target - merged).toBeGreaterThanOrEqual(0)
      expect(target - merged).toBeLessThanOrEqual(run.summary!.ledger.atMostUnknown)
    })
    // In any ten seconds no more than 102 % of what was planned for them, and what was due before and came late: two
    // halves that are played twice would be a hundred more.
    for (const from of received) {
      const to = received.find(r => r.at - from.at >= 10_000)
      if (to)
        expect(to.n - from.n).toBeLessThanOrEqual((1.02 * RATE * (to.at - from.askedAt)) / 1000 + RATE * MOST_LATE_S)
    }
    // It drove on: nothing is missing before its grace was over.
    const [first, later] = [received[0]!, received.find(r => r.at - cutAt > 50_000)!]
    expect(later.n - first.n).toBeGreaterThan((0.95 * RATE * (later.at - first.at)) / 1000)
    const events = run.changes.map(c => c.event)
    expect(events).toEqual(expect.arrayContaining(['generatorSilent', 'generatorLost']))
    expect(events.indexOf('generatorSilent')).toBeLessThan(events.indexOf('generatorLost'))
    const seconds = await house.get<{ second: number, unknownByLocation?: number[] }[]>(`runs/${id}/seconds`)
    expect(seconds.length).toBeGreaterThan(120)
  },
  240_000,
)

it('a generator that stands still for 35 s is unknown, then heard again, and keeps what it bears', async () => {
  const id = await house.startPlan('staying')
  await house.runUntil(id, r => r.line.startAt !== undefined && r.now - r.line.startAt > 8000, 'to load for 8 s')
  const pid = house.generatorPid('REY-1')
  process.kill(pid, 'SIGSTOP')
  let unknown = 0
  for (let s = 0; s < 35; s++) {
    await new Promise(r => setTimeout(r, 1000))
    const seconds = await house.get<{ unknownByLocation?: number[] }[]>(`runs/${id}/seconds`)
    unknown = Math.max(unknown, ...seconds.map(of => of.unknownByLocation?.[0] ?? 0))
  }
  process.kill(pid, 'SIGCONT')
  const run = await house.ended(id)
  expect(unknown).toBe(10)
  const events = run.changes.map(c => c.event)
  expect(events).toContain('generatorSilent')
  expect(events).not.toContain('generatorLost')
  expect(run.summary!.ledger).toMatchObject({ balanced: true, missing: 0, atMostUnknown: 0 })
  expect(sum(await house.mergedByStep(id))).toBe(sum(await house.receivedByStep(id)))
  expect(run.summary!.findings.map(f => f.code)).toContain('stood-still')
}, 180_000)
