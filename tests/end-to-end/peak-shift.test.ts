/**
 * Machines for the peak alone, on real processes: they are ordered while the run loads, join it, play the users of the
 * peak and are given back before it is over. Planned = actual users, merged = received; a broken boot, a server killed
 * meanwhile, machines that never come and a run stopped before its peak lose nothing and nobody.
 */
import type { MeterView, PlanCheck, RunView } from '../../api/views'
import type { LoadProfile } from '../../core/load/profile'
import type { Plan } from '../../core/plan/document'
import { DEMO_JOURNEYS, PORTAL_ID } from '../../demo/scenario'
import { NO_FAULTS } from '../../standins/nimbral-cloud/faults'
import { House, until } from '../build/house'
import { plan } from '../build/plans'
import { exactly, timed } from '../build/timed'

/** 8 users for `lengthS`, 24 of them for 10 s from second 40 on. */
const tower = (lengthS: number): LoadProfile => ({
  startDelayMs: 0,
  segments: [
    { to: 8, overMs: 1000 },
    { to: 8, overMs: 39_000 },
    { to: 24, overMs: 0 },
    { to: 24, overMs: 10_000 },
    { to: 8, overMs: 0 },
    { to: 8, overMs: (lengthS - 50) * 1000 },
  ],
})
const towering = (lengthS: number, over: Partial<Plan> = {}): Plan =>
  plan({
    targetId: PORTAL_ID,
    rehearse: false,
    groups: [{ letter: 'A', name: 'Lookers', journeyId: 'browse', profile: tower(lengthS) }],
    objectives: [],
    assumedUsersPerVcpu: 8,
    locations: [{ code: 'REY', provider: 'nimbral', region: 'reyk', machineType: 'brisk-1', machines: 'auto' }],
    placement: { A: { REY: 'rest' } },
    ...over,
  })
const plans: Record<string, Plan> = {
  tower: towering(70),
  short: towering(56),
  all: towering(70, { sizing: { allThrough: true } }),
}

let house: House
beforeAll(async () => {
  house = await House.build({
    plans,
    journeys: DEMO_JOURNEYS,
    env: { VORNAK_STAGE_S: '4-8' },
    cloud: {
      types: [{ name: 'brisk-1', vcpu: 1, memoryMb: 2048, pricePerHour: 0.6, billingGrainS: 1 }],
      regions: [{ name: 'reyk', quota: 8, bootS: 0.6 }],
      coresPerVcpu: 0.4,
      lingerS: 1,
    },
  })
}, 60_000)
afterAll(() => house?.close(), 60_000)
beforeEach(() => faults(NO_FAULTS))

const faults = (wanted: object) =>
  fetch(`http://127.0.0.1:${house.ports.cloud}/faults`, {
    method: 'PUT',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(wanted),
  })
const checkOf = (id: string) =>
  house.post(`plans/check`, { plan: plans[id]! }).then(r => r.body as unknown as PlanCheck)
const underLoad = (id: number, afterS: number) =>
  house.runUntil(
    id,
    r => r.line.state === 'loading' && r.now - r.line.startAt! > afterS * 1000,
    `to load for ${afterS} s`,
  )
const event = (run: RunView, name: string) => run.changes.filter(c => c.event === name)
const momentOf = (run: RunView, machine: string, name: string) =>
  (run.machines.findLast(m => m.name === machine)!.changes.find(c => c.event === name)?.at ?? Number.NaN) -
  run.line.startAt!

async function agrees(id: number, run: RunView): Promise<void> {
  expect(await house.mergedByStep(id)).toEqual(await house.receivedByStep(id))
  expect(run.summary!.ledger).toMatchObject({ missing: 0, atMostUnknown: 0 })
}

describe('machines for the peak', () => {
  it('are what the sheet foretells, and cheaper than all of them all through', async () => {
    const [peak, all] = [await checkOf('tower'), await checkOf('all')]
    expect(peak.sizes[0]!.machines.map(m => [m.count, m.shift?.fromMs, m.shift?.toMs, m.shift?.leadMs])).toEqual([
      [1, undefined, undefined, undefined],
      [2, 40_000, 50_000, 31_000],
    ])
    expect(all.sizes[0]!.machines.map(m => [m.count, m.shift])).toEqual([[3, undefined]])
    expect(peak.forecast).toBeLessThan(all.forecast * 0.9)
  })

  timed(
    'join while the run loads, play its users in time, and are given back before it is over',
    async () => {
      const id = await house.startPlan('tower')
      const early = await underLoad(id, 2)
      // They are on the list from the beginning, with when they will be ordered.
      expect(early.machines.map(m => [m.name, m.state, m.waits?.sentence.slice(0, 30)])).toEqual([
        ['REY-1', 'loading', undefined],
        ['REY-2', 'asked', 'joins for the peak: ordered at'],
        ['REY-3', 'asked', 'joins for the peak: ordered at'],
      ])
      const run = await house.ended(id)
      await exactly(async () => {
        expect(run.line.state).toBe('settled')
        expect(event(run, 'generatorJoined')).toHaveLength(2)
        await agrees(id, run)
        // Each machine has one account, and sent something.
        expect(
          run.summary!.ledger.accounts.map(a => [a.generator, a.claimed.started > 0, a.contradictions.length]),
        ).toEqual([
          ['REY-1', true, 0],
          ['REY-2', true, 0],
          ['REY-3', true, 0],
        ])
        const seconds = await house.get<{ second: number, final: boolean, users: number }[]>(`runs/${id}/seconds`)
        expect(seconds.filter(s => !s.final)).toEqual([])
      })
      for (const name of ['REY-2', 'REY-3']) {
        expect(momentOf(run, name, 'allocated')).toBeGreaterThan(4500)
        expect(momentOf(run, name, 'loadStarted')).toBeLessThan(40_000)
        expect(momentOf(run, name, 'releaseAsked')).toBeGreaterThan(50_000)
        expect(momentOf(run, name, 'releaseAsked')).toBeLessThan(64_000)
      }
      const codes = run.summary!.findings.map(f => f.code)
      expect(codes).not.toContain('users-off')
      expect(codes).not.toContain('generator-lost')
      const told = await house.get<{ runs: { runId: number, cost: number, forecast?: number }[] }>('costs')
      const cost = told.runs.find(r => r.runId === id)!
      expect(cost.cost).toBeLessThan(cost.forecast! * 1.15)
    },
    150_000,
  )

  it('that break on their way are replaced, and a server killed meanwhile forgets none of them', async () => {
    const id = await house.startPlan('short')
    await underLoad(id, 1)
    await faults({ brokenBoots: 1 })
    await house.runUntil(id, r => r.machines.some(m => m.again), 'to have another machine asked for', 30_000)
    await house.kill('vornak')
    await house.startVornak()
    const run = await house.ended(id)
    expect(run.line.state).toBe('settled')
    expect(
      event(run, 'generatorJoined')
        .map(c => c.reason)
        .sort(),
    ).toEqual(['REY-2 has joined for the peak.', 'REY-3 has joined for the peak.'])
    await agrees(id, run)
    expect(run.summary!.findings.map(f => f.code)).not.toContain('generator-absent')
  }, 150_000)

  it('that never come are told by name; their users go where room is, the rest is shed, and said', async () => {
    const id = await house.startPlan('short')
    await underLoad(id, 1)
    await faults({ neverEnrol: 9 })
    const run = await house.ended(id)
    expect(run.line.state).toBe('settled')
    expect(event(run, 'generatorAbsent')).toHaveLength(2)
    expect(event(run, 'generatorAbsent')[0]!.reason).toMatch(
      /^REY-[23] does not come for the peak: .* 8 users .*the others would be past what they carry/,
    )
    expect(run.summary!.findings.filter(f => f.code === 'generator-absent').map(f => f.generators![0])).toEqual([
      'REY-2',
      'REY-3',
    ])
    await agrees(id, run)
  }, 150_000)

  it('are not ordered when the run is stopped before', async () => {
    const id = await house.startPlan('tower')
    await underLoad(id, 1)
    await house.post(`runs/${id}/stop`)
    const run = await house.ended(id)
    expect(run.line.state).toBe('stopped')
    expect(run.machines.filter(m => m.name !== 'REY-1').map(m => m.allocatedAt)).toEqual([undefined, undefined])
    await until(async () => (await house.get<MeterView>('meter')).machinesOut === 0, 20_000, 'nothing to be out')
  }, 60_000)
})
