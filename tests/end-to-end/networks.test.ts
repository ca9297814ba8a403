/**
 * Networks and drives on real processes: what users of each network felt, as merged, is what the formulas say; passes
 * that were due are all accounted for; a held rate is held; and the portal counts the same.
 */
import type { WindowView } from '../../api/views'
import { fetchMs } from '../../core/network/expected'
import type { NetworkProfile } from '../../core/network/profile'
import { PORTAL_ID } from '../../demo/scenario'
import type { Plan } from '../../core/plan/document'
import { House } from '../build/house'
import { hill, journey, plan, step } from '../build/plans'
import { exactly, timed } from '../build/timed'

const PROFILES: NetworkProfile[] = [
  { id: 'near', name: 'near', latencyMs: 30, jitterMs: 0, loss: 0, downBps: 40e6 },
  { id: 'line', name: 'line', latencyMs: 60, jitterMs: 0, loss: 0, downBps: 4e6 },
  { id: 'far', name: 'far', latencyMs: 250, jitterMs: 0, loss: 0 },
]
const HANDBOOK = 100_000
const journeys = [
  // Somebody new each time: every fetch opens a connection.
  journey({
    id: 'fetch',
    name: 'Fetch the handbook',
    identity: 'fresh',
    round: [
      step({
        name: 'Handbook',
        url: `/handbook?kb=${HANDBOOK / 1000}`,
        think: { kind: 'uniform', fromMs: 100, toMs: 300 },
      }),
    ],
  }),
  journey({
    id: 'ask',
    name: 'Ask',
    round: [step({ name: 'Timetable', url: '/timetable', think: { kind: 'fixed', ms: 400 } })],
  }),
]
const places: Pick<Plan, 'targetId' | 'locations'> = {
  targetId: PORTAL_ID,
  locations: ['reyk', 'tavira'].map((region, i) => ({
    code: ['REY', 'TAV'][i]!,
    provider: 'nimbral',
    region,
    machineType: 'broad-2',
    machines: 'auto' as const,
  })),
}
const plans: Record<string, Plan> = {
  felt: plan({
    ...places,
    groups: [{ letter: 'A', name: 'Readers', journeyId: 'fetch', profile: hill(24, 2, 10, 1) }],
    placement: { A: { REY: 7500, TAV: 'rest' } },
    networks: { A: { REY: { near: 3334, line: 3333, far: 3333 }, TAV: { far: 5000 } } },
    objectives: [{ metric: 'failures', atMost: 0.01 }],
    assumedUsersPerVcpu: 30,
  }),
  driven: plan({
    ...places,
    groups: [
      {
        letter: 'A',
        name: 'Visitors',
        journeyId: 'ask',
        profile: hill(20, 2, 6, 1),
        drive: { kind: 'arrivals', spacing: 'poisson', mostInFlight: 60 },
      },
      {
        letter: 'B',
        name: 'Callers',
        journeyId: 'ask',
        profile: hill(25, 0, 18, 0),
        drive: { kind: 'requests', fewestUsers: 1, mostUsers: 60 },
      },
      { letter: 'C', name: 'Thrice', journeyId: 'ask', profile: hill(6, 1, 16, 1), passes: 3 },
    ],
    placement: { A: { REY: 5000, TAV: 'rest' }, B: { REY: 'rest', TAV: 'rest' }, C: { REY: 10_000 } },
    objectives: [{ metric: 'failures', atMost: 0.01, window: 'whole' }],
    assumedUsersPerVcpu: 60,
  }),
}
let house: House
beforeAll(async () => {
  house = await House.build({ plans, journeys })
  for (const profile of PROFILES)
    expect((await house.post(`networks/${profile.id}`, { profile }, 'PUT')).status).toBe(200)
}, 60_000)
afterAll(() => house?.close(), 30_000)
const sum = (counts: Record<string, number>) => Object.values(counts).reduce((a, b) => a + b, 0)

describe('a run over three networks', () => {
  timed(
    'shows in the merged result the connect times and transfer times the formulas promise',
    async () => {
      const id = await house.startPlan('felt')
      const run = await house.ended(id)
      await exactly(async () => {
        expect([run.line.state, run.summary!.ledger.balanced]).toEqual(['settled', true])
        expect(await house.mergedByStep(id)).toEqual(await house.receivedByStep(id))
      })
      // Not from the very first second: programs that have just begun are slower than the networks.
      const { networks } = await house.get<WindowView>(`runs/${id}/window?from=3&to=12`)
      expect(networks.map(n => `${n.location} ${n.network}`).sort()).toEqual([
        'REY far',
        'REY line',
        'REY near',
        'TAV direct',
        'TAV far',
      ])
      const realMs = networks.find(n => n.network === 'direct')!.figures.connectP50Ms!
      for (const { network, figures, expectedConnectMs } of networks.filter(n => n.network !== 'direct')) {
        const profile = PROFILES.find(p => p.id === network)!
        expect(figures.connects).toBeGreaterThan(10)
        expect(expectedConnectMs!).toBeGreaterThanOrEqual(profile.latencyMs)
        expect(Math.abs(figures.connectP50Ms! - profile.latencyMs - realMs)).toBeLessThan(
          Math.max(6, profile.latencyMs * 0.1),
        )
        const expected = fetchMs(profile, realMs, HANDBOOK, false)
        expect([network, Math.abs(figures.p50Ms! - expected) < Math.max(12, expected * 0.1)]).toEqual([network, true])
      }
    },
    120_000,
  )
})

describe('a run with all three drives', () => {
  timed(
    'accounts for every pass that was due, holds the rate, and counts what the portal counts',
    async () => {
      const id = await house.startPlan('driven')
      const run = await house.ended(id)
      await exactly(async () => {
        expect([run.line.state, run.summary!.ledger.balanced]).toEqual(['settled', true])
        const received = await house.receivedByStep(id)
        expect(await house.mergedByStep(id)).toEqual(received)
        expect(run.summary!.ledger.sent).toBe(sum(received))
        const [visitors] = run.summary!.arrivals!
        // Poisson with the area of the profile for its mean: 150 ± 4 σ.
        expect(Math.abs(visitors!.planned - 150)).toBeLessThan(49)
        expect(visitors).toMatchObject({ group: 'Visitors', started: visitors!.planned, notStarted: {}, unknown: 0 })
      })
      const seconds = await house.get<{ usersByGroup: number[], startedByGroup: number[] }[]>(`runs/${id}/seconds`)
      const rates = seconds.slice(9, 17).map(s => s.startedByGroup[1]!)
      const mean = rates.reduce((a, b) => a + b, 0) / rates.length
      expect(Math.abs(mean - 25) / 25).toBeLessThan(0.12)
      // Six users, three passes of one request each.
      expect(seconds.reduce((all, s) => all + s.startedByGroup[2]!, 0)).toBe(18)
      expect(run.summary!.findings.map(f => f.code)).not.toEqual(expect.arrayContaining(['users-off']))
    },
    120_000,
  )
})
