/** What machines cost and what refuses them; how long stages take; calls within a provider's rate. */
import { join } from 'node:path'
import { Money } from '../../control/machines/money'
import { CallRate } from '../../control/machines/providers/call-rate'
import { StageTimes } from '../../control/machines/stage-times'
import { factStore } from '../../control/store/facts'
import { machineStore } from '../../control/store/machines'
import { openStore } from '../../control/store/open'
import { runStore } from '../../control/store/runs'
import type { Price } from '../../core/offers/cost'
import { ownFolder } from '../build/folder'
import { runDocument } from '../build/plans'

const folder = ownFolder()
let files = 0
const MIN = 60_000
const PRICE: Price = {
  perHour: 0.6,
  grainS: 60,
  minimumS: 0,
  extrasPerHour: 0,
  currency: 'EUR',
  asOf: '2026-11-01',
  interruptible: false,
}
const NOON = new Date(2026, 10, 25, 12).getTime()

function house() {
  const store = openStore(join(folder, `${++files}.db`))
  const machines = machineStore(store)
  const runs = runStore(store)
  const money = new Money(machines, factStore(store), {
    mostMachines: 2,
    mostUsers: 100,
    longestRunMin: 60,
    budgetPerRun: 1,
    budgetPerDay: 0.05,
    currency: 'EUR',
  })
  let count = 0
  /** A machine of a run, allocated at a moment. */
  const machine = (runId: number | undefined, allocatedAt: number, leaseMin = 3) => {
    const id = `m${++count}`
    machines.create({
      id,
      ...(runId === undefined ? {} : { runId }),
      provider: 'nimbral',
      region: 'r',
      location: 'REY',
      place: count,
      name: id,
      type: 't',
      idempotencyKey: id,
      askedAt: allocatedAt,
      leaseEndsAt: allocatedAt + leaseMin * MIN,
      price: PRICE,
    })
    machines.setRef(id, id, allocatedAt)
    return id
  }
  return { store, machines, runs, money, machine, run: () => runs.create('p', runDocument(), 0) }
}

describe('money', () => {
  it('bills begun minutes from allocation to the confirmed end, and splits a night between its days', () => {
    const { money, machines, machine, run } = house()
    const midnight = new Date(2026, 10, 25).getTime()
    const id = machine(run(), midnight - 90_000)
    // Two minutes had begun before midnight, of five in all.
    machines.setGone(id, midnight + 170_000)
    const m = machines.machine(id)!
    expect(money.costBetween(m, 0, NOON)).toBeCloseTo(0.05)
    expect(money.costBetween(m, midnight, NOON)).toBeCloseTo(0.03)
    expect(money.today(NOON)).toBeCloseTo(0.03)
  })

  it('gives a kept machine’s waiting to the run that kept it, and the sum is the whole', () => {
    const { money, machines, machine, run } = house()
    const [first, second] = [run(), run()]
    const id = machine(first, NOON)
    machines.letGo(id, NOON + 2 * MIN)
    machines.take(id, { runId: second, location: 'REY', place: 0, name: 'REY-1', at: NOON + 5 * MIN })
    machines.setGone(id, NOON + 9 * MIN)
    expect(money.ofRun(first, NOON + 60 * MIN)).toBeCloseTo(0.05)
    expect(money.ofRun(second, NOON + 60 * MIN)).toBeCloseTo(0.04)
    expect(money.costSoFar(machines.machine(id)!, NOON + 60 * MIN)).toBeCloseTo(0.09)
  })

  it('refuses one more machine past the number, and past the day’s budget with all its lease', () => {
    const { money, machines, machine, run } = house()
    const id = machine(run(), NOON)
    const wanted = machines.machine(id)!
    // 0.01 is spent, 0.02 more are committed by its lease: another of 0.03 would pass 0.05.
    expect(money.mayTake(wanted, NOON + 1000)).toMatchObject({
      code: 'budget',
      sentence: expect.stringMatching(/€0\.01 are spent, €0\.02 are committed until leases end, this machine may cost €0\.03/),
    })
    money.rails = { ...money.rails, budgetPerDay: 0.1 }
    expect(money.mayTake(wanted, NOON + 1000)).toBeUndefined()
    expect(money.mayTake({ ...wanted, leaseEndsAt: NOON + 9 * MIN }, NOON + 1000)).toMatchObject({ code: 'budget' })
    machine(run(), NOON)
    expect(money.mayTake(wanted, NOON)).toMatchObject({ code: 'most-machines' })
    money.rails = { ...money.rails, mostMachines: 9, budgetPerDay: 5 }
    expect(money.mayTake(wanted, NOON)).toBeUndefined()
    expect(money.committed(NOON + 1000)).toBeCloseTo(0.04)
  })
})

describe('stages on the way', () => {
  it('have twice the 95th percentile seen, from four minutes to twelve', () => {
    const { machines, machine, run } = house()
    const times = new StageTimes(machines)
    expect(times.timeoutMs('nimbral', 'booting')).toBe(4 * MIN)
    expect(times.usualMs('nimbral')).toBeUndefined()
    const took = (bootMin: number) => {
      const id = machine(run(), NOON)
      machines.change(id, { at: NOON, from: 'asked', to: 'allocated', event: 'allocated', reason: 'x' })
      machines.change(id, { at: NOON + 1000, from: 'allocated', to: 'booting', event: 'booting', reason: 'x' })
      machines.change(id, {
        at: NOON + 1000 + bootMin * MIN,
        from: 'booting',
        to: 'enrolled',
        event: 'enrolled',
        reason: 'x',
      })
    }
    for (let i = 0; i < 20; i++) took(i === 19 ? 9 : 3)
    // Nearest rank: the 19th of 20 is the 95th percentile.
    expect(times.timeoutMs('nimbral', 'booting')).toBe(6 * MIN)
    expect(times.usualMs('nimbral')).toBe(3 * MIN + 1000)
    for (let i = 0; i < 5; i++) took(9)
    expect(times.timeoutMs('nimbral', 'booting')).toBe(12 * MIN)
    expect(times.timeoutMs('elsewhere', 'booting')).toBe(4 * MIN)
  })
})

describe('calls to a provider', () => {
  it('keep to its rate, in their order, and pause when it says so', async () => {
    let now = 0
    const timers: { at: number, call: () => void }[] = []
    const clock = {
      now: () => now,
      after: (ms: number, call: () => void) => {
        timers.push({ at: now + ms, call })
        return {
          cancel() {
            /* never */
          },
        }
      },
    }
    const rate = new CallRate({ perSecond: 10, atOnce: 3 }, clock)
    const went: [number, number][] = []
    for (let i = 0; i < 8; i++) void rate.turn().then(() => went.push([i, Math.round(now)]))
    const pass = async (until: number) => {
      while (now < until) {
        now += 10
        for (const t of timers.splice(0))
          if (t.at <= now) t.call()
          else timers.push(t)
        await Promise.resolve()
        await Promise.resolve()
      }
    }
    await pass(300)
    expect(went.map(([i]) => i)).toEqual([0, 1, 2, 3, 4, 5])
    rate.pause(1000)
    await pass(1290)
    expect(went.length).toBe(6)
    await pass(1600)
    expect(went.map(([i]) => i)).toEqual([0, 1, 2, 3, 4, 5, 6, 7])
    expect(went[6]![1]).toBeGreaterThanOrEqual(1300)
  })
})
