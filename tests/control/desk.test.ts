/**
 * The fleet as its operator handles it: releasing, extending, calling the roll, what it costs, by run, by day, and as a
 * table for others.
 */
import { join } from 'node:path'
import type { Clock } from '../../control/clock'
import type { ControlError } from '../../control/errors'
import { FleetDesk, type DeskOptions } from '../../control/machines/desk'
import { Money } from '../../control/machines/money'
import { ProviderSilent, type Provider } from '../../control/machines/providers/contract'
import { RollCaller } from '../../control/link/roll-caller'
import { factStore } from '../../control/store/facts'
import { machineStore } from '../../control/store/machines'
import { openStore } from '../../control/store/open'
import { rollCallStore } from '../../control/store/roll-calls'
import { runStore } from '../../control/store/runs'
import type { Price } from '../../core/offers/cost'
import { ownFolder } from '../build/folder'
import { offers, plan, runDocument, target } from '../build/plans'

const folder = ownFolder()
const stores: { close(): void }[] = []
afterAll(() => stores.forEach(s => s.close()))
const MIN = 60_000
const NOON = new Date(2026, 10, 25, 12).getTime()
const PRICE: Price = {
  perHour: 0.6,
  grainS: 60,
  minimumS: 0,
  extrasPerHour: 0.06,
  currency: 'EUR',
  asOf: '2026-11-01',
  interruptible: false,
}

function desk({ budget = 1 } = {}) {
  const store = openStore(join(folder, `${stores.length}.db`))
  stores.push(store)
  let now = NOON
  const clock = { now: () => now } as Clock
  const machines = machineStore(store)
  const runs = runStore(store)
  const money = new Money(machines, factStore(store), {
    mostMachines: 10,
    mostUsers: 100,
    longestRunMin: 60,
    budgetPerRun: budget,
    budgetPerDay: budget,
    currency: 'EUR',
  })
  const told = {
    released: [] as string[],
    extended: [] as [string, number][],
    strays: [] as string[],
    looked: 0,
    said: [] as string[],
    silent: false,
    carries: new Set<number>(),
  }
  const answer = () => (told.silent ? Promise.reject(new ProviderSilent('Nimbral does not answer')) : Promise.resolve())
  const connections = new Map<string, { say: (m: { kind: string }) => void, clock: object }>()
  const fleet = {
    releaseMachine: (id: string) => (told.released.push(id), answer()),
    extend: (id: string, until: number) => (told.extended.push([id, until]), answer()),
    releaseStray: (_: string, ref: string) => (told.strays.push(ref), answer()),
    look: () => Promise.resolve(void told.looked++),
    silent: new Map([['nimbral', { since: NOON, sentence: 'Nimbral does not answer' }]]),
    stageTimes: { usualMs: () => 4200 },
    strays: [
      {
        provider: 'nimbral',
        machine: { ref: 'n-99', name: 'vornak-x-r9-rey-1', region: 'reyk', type: 'brisk-1', state: 'running' },
        since: NOON,
        why: 'unknown' as const,
      },
    ],
  }
  const provider = { id: 'nimbral', name: 'Nimbral', way: 'cloud', ownEnd: 'natively' } as Provider
  const hub = { connections } as never
  const made = new FleetDesk({
    clock,
    machines,
    fleet: fleet as never,
    hub,
    money,
    rollCaller: new RollCaller(machines, hub, rollCallStore(store), clock, () => {
      /* nobody listens */
    }),
    providers: new Map([['nimbral', provider]]),
    offers: () => Promise.resolve(offers()),
    plans: () => [{ id: 'p', plan: plan() }],
    target: id => (id === 'portal' ? target() : undefined),
    paths: () => ({ REY: 1.5 }),
    carries: id => told.carries.has(id),
    runNames: () => new Map([[1, { plan: 'A plan', forecast: 0.05 }]]),
    faults: () => [],
  } satisfies DeskOptions)
  /** A machine of a run, allocated now, its lease five minutes. */
  const machine = (id: string, runId: number | undefined) => {
    machines.create({
      id,
      ...(runId === undefined ? {} : { runId }),
      provider: 'nimbral',
      region: 'reyk',
      location: 'REY',
      place: 0,
      name: id.toUpperCase(),
      type: 'brisk-1',
      idempotencyKey: id,
      askedAt: now,
      leaseEndsAt: now + 5 * MIN,
      price: PRICE,
    })
    machines.setRef(id, `n-${id}`, now)
  }
  return {
    desk: made,
    machines,
    told,
    machine,
    connections,
    run: () => runs.create('p', runDocument(), 0),
    move: (ms: number) => {
      now += ms
    },
    now: () => now,
  }
}
const refused = (promise: Promise<unknown>) =>
  promise.then(
    () => {
      throw new Error('it was not refused')
    },
    (error: ControlError) => [error.code, error.message],
  )

describe('the fleet’s lanes', () => {
  it('are the places of all plans, with their machines, what is offered there, and who is silent', async () => {
    const { desk: fleet, machine, run } = desk()
    machine('rey-1', run())
    const view = await fleet.view()
    expect(
      view.locations.map(l => [
        l.code,
        l.region,
        l.offer?.quota.most,
        l.usualMs,
        l.pathMs,
        l.machines.map(m => m.name),
      ]),
    ).toEqual([
      ['REY', 'reyk', 5, 4200, 1.5, ['REY-1']],
      ['TAV', 'tavira', 5, 4200, undefined, []],
    ])
    expect(view.ways).toEqual([
      { id: 'nimbral', name: 'Nimbral', way: 'cloud', ownEnd: 'natively', silent: 'Nimbral does not answer' },
    ])
    expect(view.strays).toMatchObject([{ ref: 'n-99', kind: 'machine', why: 'unknown' }])
  })
})

describe('releasing', () => {
  it('takes what carries no run, and leaves the others', async () => {
    const { desk: fleet, machine, run, told } = desk()
    const [busy, over] = [run(), run()]
    machine('a', busy)
    machine('b', over)
    machine('c', undefined)
    told.carries.add(busy)
    expect(await fleet.releaseIdle()).toBe(2)
    expect([told.released, told.looked]).toEqual([['b', 'c'], 1])
  })

  it('of one that carries load is refused; of one that waits for a run it is not', async () => {
    const { desk: fleet, machine, machines, run, told, now } = desk()
    const runId = run()
    machine('a', runId)
    told.carries.add(runId)
    machines.change('a', { at: now(), from: 'asked', to: 'loading', event: 'x', reason: 'x' })
    expect(await refused(fleet.release('a'))).toEqual(['carries-load', `A carries load of run ${runId}.`])
    machines.change('a', { at: now(), from: 'loading', to: 'ready', event: 'x', reason: 'x' })
    await fleet.release('a')
    expect(told.released).toEqual(['a'])
    expect(await refused(fleet.release('nobody'))).toEqual(['not-found', expect.stringContaining('machine nobody')])
  })

  it('that the provider does not hear is told, and goes on', async () => {
    const { desk: fleet, machine, told } = desk()
    machine('a', undefined)
    told.silent = true
    expect(await refused(fleet.release('a'))).toEqual(['provider-silent', 'Nimbral does not answer.'])
    expect(await refused(fleet.releaseIdle())).toEqual(['provider-silent', 'Nimbral does not answer.'])
    expect(await refused(fleet.releaseStray('nimbral', 'n-99'))).toEqual([
      'provider-silent',
      'Nimbral does not answer.',
    ])
  })

  it('of a stray is for strays only', async () => {
    const { desk: fleet, told } = desk()
    await fleet.releaseStray('nimbral', 'n-99')
    expect(told.strays).toEqual(['n-99'])
    expect(await refused(fleet.releaseStray('nimbral', 'n-1'))).toEqual([
      'not-found',
      expect.stringContaining('stray n-1'),
    ])
  })
})

describe('a lease', () => {
  it('is extended from its end, or from now where that is past', async () => {
    const { desk: fleet, machine, told, move } = desk()
    machine('a', undefined)
    await fleet.extend('a', 10)
    move(30 * MIN)
    await fleet.extend('a', 10)
    expect(told.extended).toEqual([
      ['a', NOON + 15 * MIN],
      ['a', NOON + 40 * MIN],
    ])
  })

  it('that today’s budget does not allow is refused, with what is left', async () => {
    // €0.66 an hour: 5 min are 0.055; an hour more 0.66. Nothing is spent yet but the first begun minute, 0.011.
    const { desk: fleet, machine, told, move } = desk({ budget: 0.5 })
    machine('a', undefined)
    move(30_000)
    expect(await refused(fleet.extend('a', 60))).toEqual([
      'budget',
      '60 min more cost €0.66; €0.49 are left of today’s budget.',
    ])
    expect(told.extended).toEqual([])
    await fleet.extend('a', 10)
    expect(told.extended).toHaveLength(1)
  })
})

describe('the roll', () => {
  it('is called of those that are connected, towards a target where one is named', () => {
    const { desk: fleet, machine, connections } = desk()
    const said: [string, unknown][] = []
    for (const id of ['a', 'b']) machine(id, undefined)
    connections.set('a', { say: m => said.push(['a', (m as { hosts?: unknown }).hosts]), clock: { samples: 0 } })
    expect(fleet.callRoll()).toBe(1)
    expect(fleet.callRoll(['a'], 'portal')).toBe(1)
    expect(fleet.callRoll(['b'])).toBe(0)
    expect(said).toEqual([
      ['a', []],
      ['a', [{ host: '127.0.0.1:1', secure: false }]],
    ])
    expect(() => fleet.callRoll(undefined, 'nowhere')).toThrow('target nowhere')
    expect(() => fleet.callRoll(['nobody'])).toThrow('machine nobody')
    expect(fleet.rollCall().machines).toHaveLength(1)
  })
})

describe('costs', () => {
  it('are told by run, by day and by plan, and agree', () => {
    const { desk: fleet, machine, machines, run, move, now } = desk()
    const runId = run()
    machine('a', runId)
    move(3 * MIN - 1)
    machines.setGone('a', now())
    machines.setBilled('a', 0.0331)
    machine('b', runId)
    move(MIN)
    // Three begun minutes and one, at €0.66 an hour.
    const costs = fleet.costs()
    expect(costs.runs).toMatchObject([{ runId, plan: 'A plan', machines: 2, forecast: 0.05 }])
    expect(costs.runs[0]!.cost).toBeCloseTo(0.044, 9)
    // One of its machines has not been billed yet.
    expect(costs.runs[0]!.billed).toBeUndefined()
    expect([costs.today, costs.byDay[0]!.cost, costs.plans[0]!.cost].map(n => Number(n.toFixed(6)))).toEqual([
      0.044, 0.044, 0.044,
    ])
    machines.setGone('b', now())
    machines.setBilled('b', 0.011)
    expect(fleet.costs().runs[0]!.billed).toBeCloseTo(0.0441, 9)
  })

  it('go out as a table, one row a machine (RFC 4180)', () => {
    const { desk: fleet, machine, run, move } = desk()
    machine('a', run())
    move(90_000)
    const text = fleet.csv().split('\r\n')
    expect(text[0]).toMatch(/^machine,run,location,provider,/)
    expect(text[1]).toMatch(/^A,1,REY,nimbral,reyk,brisk-1,no,asked,2026-11-25T/)
    expect(text[1]).toContain(',0.6,0.06,60,EUR,2026-11-01,0.022,')
  })
})

describe('a machine by itself', () => {
  it('is told with its runs, what each cost, and what its lease may still cost', () => {
    const { desk: fleet, machine, machines, run, move, now } = desk()
    const [first, second] = [run(), run()]
    machine('a', first)
    move(2 * MIN)
    machines.letGo('a', now())
    move(MIN)
    machines.take('a', { runId: second, location: 'REY', place: 0, name: 'A', at: now() })
    const view = fleet.machine('a')
    expect(view.crew.map(c => [c.runId, Number(c.cost.toFixed(4))])).toEqual([
      [first, 0.033],
      [second, 0],
    ])
    expect(view).toMatchObject({ connected: false, ref: 'n-a', rollCall: undefined })
    expect(view.committed).toBeCloseTo(0.055, 9)
  })
})
