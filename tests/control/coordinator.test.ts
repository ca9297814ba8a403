/**
 * The coordinator with a simulated fleet, in fast time: the lives of runs that are hard to reach with real machines.
 * The fleet speaks the real protocol over real sockets; only its users live in virtual time.
 */
import { join } from 'node:path'
import type { RunView } from '../../api/views'
import { fastClock } from '../../control/clock'
import { ControlError } from '../../control/errors'
import type { Provider } from '../../control/machines/providers/contract'
import type { Plan } from '../../core/plan/document'
import { simulatedCloud } from '../../demo/simulated-cloud'
import { programsIn } from '../../main/programs'
import { serve, type Serving } from '../../main/serve'
import { World } from '../../simfleet/world'
import { ownFolder } from '../build/folder'
import { settingsIn } from '../build/settings'
import { hill, journey, plan, target } from '../build/plans'

const FACTOR = 30
const PROGRAMS = programsIn(join(__dirname, '../../dist'))
const folder = ownFolder()
const world = new World({ workers: 4, mostWaiting: 50, serviceMs: () => 30, sigma: 0.4, seed: 5 })
const clock = fastClock(Date.UTC(2026, 10, 25, 8), FACTOR)
const cloud = simulatedCloud(clock, world)
/** What the provider is made to do wrong. */
const wrong = { refuse: '', boots: true }
const GB = 1024 ** 3
/** Of the disk. */
let free = 40 * GB
const provider: Provider = {
  ...cloud,
  create: request =>
    wrong.refuse === request.region
      ? Promise.resolve({ refusal: { code: 'quota', sentence: 'No machine left.', passing: true } })
      : wrong.boots
        ? cloud.create(request)
        : cloud.create({
            ...request,
            environment: { ...request.environment, VORNAK_CONTROLLER: 'https://127.0.0.1:9' },
          }),
}
const base = plan({
  groups: [{ letter: 'A', name: 'Lookers', journeyId: 'look', profile: hill(20, 5, 40, 5) }],
  assumedUsersPerVcpu: 20,
})
const plans: Record<string, Plan> = {
  base,
  kept: { ...base, keepMachinesMin: 5 },
  warm: {
    ...base,
    groups: [
      {
        ...base.groups[0]!,
        profile: {
          startDelayMs: 0,
          segments: [
            { to: 5, overMs: 5000, warmUp: true },
            { to: 5, overMs: 10_000, warmUp: true },
            { to: 20, overMs: 5000 },
            { to: 20, overMs: 40_000 },
          ],
        },
      },
    ],
  },
  hasty: { ...base, waitForMachinesMin: 0 },
  patient: { ...base, waitForMachinesMin: 12 },
  strict: { ...base, objectives: [{ metric: 'p95', step: 'Ask', atMost: 1 }] },
  long: { ...base, groups: [{ ...base.groups[0]!, profile: hill(20, 5, 600, 5) }] },
}
let house: Serving
let moving: NodeJS.Timeout
beforeAll(async () => {
  house = await serve(await settingsIn(folder), (_, response) => void response.end(), PROGRAMS, {
    clock,
    providers: [provider],
    freeBytes: () => free,
  })
  moving = setInterval(() => world.advance(clock.now()), 3)
  house.coordinator.library.saveTarget(target())
  house.coordinator.library.saveJourney(journey())
  for (const [id, p] of Object.entries(plans)) house.coordinator.plans.save(id, p, 0)
})
afterAll(async () => {
  clearInterval(moving)
  cloud.close()
  await house.close()
})

/** Waits until a run is as wanted; every change is told. */
async function when(id: number, is: (run: RunView) => boolean): Promise<RunView> {
  const { coordinator } = house
  await new Promise<void>((resolve) => {
    const look = () => {
      if (!is(coordinator.runs.view(id))) return
      coordinator.news.live.off('live', look)
      resolve()
    }
    coordinator.news.live.on('live', look)
    look()
  })
  return coordinator.runs.view(id)
}
const ended = (id: number) => when(id, r => r.line.endedAt !== undefined)
const gone = (id: number) =>
  when(id, r => r.line.endedAt !== undefined && r.machines.every(m => m.goneAt !== undefined))
const states = (run: RunView) => run.changes.filter(c => c.from !== c.to).map(c => c.to)

describe('runs under the coordinator', () => {
  it('take turns at one target: the second waits, says so, and begins when the first is over', async () => {
    const { coordinator } = house
    const [first, second] = [await coordinator.start('base'), await coordinator.start('base')]
    await when(first.id, r => r.line.state === 'loading')
    expect(coordinator.runs.view(second.id).line).toMatchObject({ state: 'queued', sentence: 'waiting for its turn…' })
    expect(coordinator.meter()).toMatchObject({ run: { id: first.id, state: 'loading' }, machinesOut: 2 })
    const done = await gone(second.id)
    expect(done.line.verdict).toBe('held')
    expect(coordinator.runs.view(first.id).line.endedAt!).toBeLessThanOrEqual(done.line.startAt!)
    expect(done.summary!.ledger).toMatchObject({ balanced: true, missing: 0 })
  }, 120_000)

  it('warm up without being judged, then load', async () => {
    const run = await gone((await house.coordinator.start('warm')).id)
    expect(states(run)).toEqual([
      'gathering',
      'rollCall',
      'rehearsing',
      'armed',
      'warming',
      'loading',
      'draining',
      'settled',
    ])
    expect(run.summary!.answer.judgements.every(j => j.level.fromS >= 20)).toBe(true)
  }, 120_000)

  it('answer no, with the figure, when an objective is missed', async () => {
    const run = await gone((await house.coordinator.start('strict')).id)
    expect(run.line).toMatchObject({
      state: 'settled',
      verdict: 'broken',
      sentence: expect.stringMatching(/^No: p95 of Ask [\d.]+ ms at 20 users\.$/),
    })
  }, 120_000)

  it('keep their machines when the plan says so, until they are released by hand; the meter counts them', async () => {
    const { coordinator } = house
    const run = await ended((await coordinator.start('kept')).id)
    expect(run.machines.every(m => m.goneAt === undefined && m.state === 'ready')).toBe(true)
    expect(coordinator.meter()).toMatchObject({ machinesOut: 2, nextLease: { location: 'REY' } })
    expect(coordinator.meter().perHour).toBeCloseTo(0.12)
    expect(await coordinator.desk.releaseIdle()).toBe(2)
    expect((await gone(run.line.id)).machines.map(m => m.state)).toEqual(['released', 'released'])
  }, 120_000)

  it('can be aborted under load: what was under way is cut, not failed', async () => {
    const { coordinator } = house
    const { id } = await coordinator.start('long')
    await when(id, r => r.line.state === 'loading')
    coordinator.runs.mark(id, 'enough')
    coordinator.runs.abort(id)
    const run = await gone(id)
    expect(run.line.state).toBe('aborted')
    expect(run.summary!.ledger.balanced).toBe(true)
    expect(run.changes.map(c => c.event)).toContain('mark')
    expect(() => coordinator.runs.abort(id)).toThrow(ControlError)
  }, 120_000)

  it('drain while the disk is nearly full, with what they found kept; nothing new begins until there is room', async () => {
    const { coordinator } = house
    const { id } = await coordinator.start('long')
    await when(id, r => r.line.state === 'loading' && (r.line.startAt ?? Infinity) + 30_000 < clock.now())
    free = 0.2 * GB
    const run = await gone(id)
    free = 40 * GB
    expect(run.line.state).toBe('stopped')
    expect(run.changes.some(c => c.reason.startsWith('204 MB are left on the disk; below 500 MB'))).toBe(true)
    expect(run.summary!.ledger).toMatchObject({ balanced: true, missing: 0 })
    expect(run.summary!.whole.right).toBeGreaterThan(100)

    free = 0.2 * GB
    while (coordinator.meter().troubles.length === 0) await new Promise(r => setTimeout(r, 20))
    expect(coordinator.meter().troubles).toMatchObject([{ word: 'Disk nearly full' }])
    await expect(coordinator.start('base')).rejects.toMatchObject({ code: 'disk', status: 507 })
    free = 40 * GB
    while (coordinator.meter().troubles.length > 0) await new Promise(r => setTimeout(r, 20))
    expect((await gone((await coordinator.start('base')).id)).line.state).toBe('settled')
  }, 120_000)

  it('fail with what they lack when a machine is refused and their patience is over, and owe nothing', async () => {
    wrong.refuse = 'tavira'
    const run = await gone((await house.coordinator.start('hasty')).id)
    wrong.refuse = ''
    expect(run.line.sentence).toBe('Not run: lacks 1 of 1 brisk-1 at TAV: No machine left.')
    expect(house.coordinator.meter().machinesOut).toBe(0)
  }, 120_000)

  it('fail when machines never enrol: each is given four minutes, and its place one more machine', async () => {
    wrong.boots = false
    const run = await gone((await house.coordinator.start('base')).id)
    wrong.boots = true
    expect(run.line.sentence).toMatch(/still installing after 4 min/)
    // The run is over with the first that fails; the other may fail, too, before it is given back.
    expect(run.machines.map(m => m.state)).toContain('failed')
    expect(run.machines.filter(m => m.again).length).toBeGreaterThan(0)
    expect(run.machines.every(m => ['failed', 'released'].includes(m.state))).toBe(true)
  }, 120_000)

  it('are not made from a plan that something is in the way of', async () => {
    const { coordinator } = house
    coordinator.library.setApproval('portal', {
      hosts: ['127.0.0.1:1'],
      mostUsers: 10,
      until: '2999-01-01T00:00:00.000Z',
      contact: 'its owner',
    })
    await expect(coordinator.start('base')).rejects.toMatchObject({
      code: 'in-the-way',
      sentence: expect.stringContaining('at most 10'),
    })
    await expect(coordinator.start('nothing')).rejects.toMatchObject({ code: 'not-found' })
    expect(() => coordinator.runs.view(99_999)).toThrow('There is no run 99999.')
    expect(() => coordinator.runs.window(1, 5, 5)).toThrow(ControlError)
  })

  it('stand on the board with the machines and the plans', async () => {
    const board = house.coordinator.board()
    expect(board.runs.length).toBeGreaterThan(5)
    expect(board.plans.find(p => p.id === 'base')).toMatchObject({
      peakUsers: 20,
      groups: 1,
      locations: 2,
      problemsInTheWay: 1,
    })
    const fleet = await house.coordinator.desk.view()
    expect(fleet.locations.map(l => l.code)).toEqual(['REY', 'TAV'])
    expect(fleet.strays).toEqual([])
  })
})
