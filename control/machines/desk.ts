/**
 * The fleet as its operator sees and handles it: lanes, machines, roll calls, strays, money, guard rails. server/ calls
 * it.
 */
import { ownOf } from '../../core/values/own'
import type { CostsView, FleetView, MachineView, RollCallView } from '../../api/views'
import { csvOf } from '../../core/formats/csv'
import { costOf } from '../../core/offers/cost'
import type { RollCallFinding } from '../../core/fleet/roll-call'
import type { Plan } from '../../core/plan/document'
import type { RegionOffer } from '../../core/offers/machine-type'
import type { Clock } from '../clock'
import { ControlError, notFound } from '../errors'
import type { Machine, MachineStore } from '../store/machines'
import { machineLine } from './machine-lines'
import type { Fleet } from './fleet'
import type { GeneratorHub } from '../link/generator-hub'
import { amount, type GuardRails, type Money } from './money'
import { ProviderSilent, type Provider } from './providers/contract'
import { whereToReach, type RollCaller } from '../link/roll-caller'
import type { Target } from '../../core/journey/target'
import { defined } from '../../core/values/defined'

/** How far back lanes show machines that are gone, ms. */
const FLEET_PAST_MS = 15 * 60_000
/** Costs are told for this many days at most. */
const MOST_DAYS = 31
const DAY_MS = 86_400_000

export interface DeskOptions {
  clock: Clock
  machines: MachineStore
  fleet: Fleet
  hub: GeneratorHub
  money: Money
  rollCaller: RollCaller
  providers: ReadonlyMap<string, Provider>
  offers: () => Promise<Record<string, RegionOffer[] | undefined>>
  plans: () => { id: string, plan: Plan }[]
  target: (id: string) => Target | undefined
  /** Round trip of the path per location, as last seen, ms. */
  paths: () => Record<string, number>
  /** Whether a run holds its machines now. */
  carries: (runId: number) => boolean
  /** What went wrong while nobody was asking. */
  faults: () => FleetView['faults']
  /** A plan of each run, for what it is called. */
  runNames: () => Map<number, { plan: string, forecast?: number }>
}

export class FleetDesk {
  constructor(private readonly options: DeskOptions) {}

  async view(): Promise<FleetView> {
    const { clock, machines, fleet, money, providers, plans, paths } = this.options
    const now = clock.now()
    const offers = await this.options.offers()
    const roundTrips = paths()
    const lanes = new Map<string, FleetView['locations'][number]>()
    const lane = (code: string, provider: string, region: string) => {
      const key = `${code} ${provider} ${region}`
      let found = lanes.get(key)
      if (!found) {
        const usualMs = fleet.stageTimes.usualMs(provider)
        lanes.set(
          key,
          (found = {
            code,
            provider,
            region,
            way: providers.get(provider)?.way,
            offer: ownOf(offers, provider)?.find(o => o.region === region),
            machines: [],
            ...(usualMs === undefined ? {} : { usualMs }),
            ...(roundTrips[code] === undefined ? {} : { pathMs: roundTrips[code] }),
          }),
        )
      }
      return found
    }
    for (const { plan } of plans()) for (const l of plan.locations) lane(l.code, l.provider, l.region)
    const changes = machines.changesSince(now - FLEET_PAST_MS)
    for (const machine of machines.outSince(now - FLEET_PAST_MS))
      lane(machine.location, machine.provider, machine.region).machines.push(
        machineLine(machine, changes.get(machine.id) ?? [], now, money),
      )
    return {
      now,
      locations: [...lanes.values()],
      ways: [...providers.values()].map(p => ({
        id: p.id,
        name: p.name,
        way: p.way,
        ownEnd: p.ownEnd,
        ...defined({ silent: fleet.silent.get(p.id)?.sentence }),
      })),
      faults: this.options.faults(),
      strays: fleet.strays.map(s => ({
        provider: s.provider,
        ref: s.machine.ref,
        name: s.machine.name,
        kind: s.machine.kind ?? 'machine',
        region: s.machine.region,
        type: s.machine.type,
        since: s.since,
        why: s.why,
      })),
    }
  }

  machine(id: string): MachineView {
    const { machines, clock, money, hub, rollCaller } = this.options
    const machine = this.stored(id)
    const now = clock.now()
    const called = rollCaller.judgeLatest([machine])
    return {
      machine: machineLine(machine, machines.changes(id), now, money),
      crew: machines
        .crewOf(id)
        .map(({ runId, name, takenAt, leftAt }, i, all) => ({
          runId,
          name,
          takenAt,
          leftAt,
          cost: money.costOfStay(machine, { runId, takenAt, nextAt: all[i + 1]?.takenAt, first: i === 0 }, now),
        })),
      price: machine.price,
      ref: machine.ref,
      address: machine.address,
      connected: hub.connections.has(id),
      log: machines.log(id),
      rollCall: called.called[0]?.report ? { machines: called.called, findings: called.findings } : undefined,
      committed:
        machine.allocatedAt === undefined ? 0 : costOf(machine.price, machine.leaseEndsAt - machine.allocatedAt),
    }
  }

  /** Gives back every machine that is out and does not carry a run. @returns how many were asked for */
  async releaseIdle(): Promise<number> {
    const { machines, fleet, carries } = this.options
    const idle = machines.out().filter(m => m.runId === undefined || !carries(m.runId))
    const told = await Promise.allSettled(idle.map(m => fleet.releaseMachine(m.id, 'released by hand')))
    await fleet.look()
    const silent = told.find(t => t.status === 'rejected')
    if (silent) throw asProblem(silent.reason)
    return idle.length
  }

  async release(id: string): Promise<void> {
    const { fleet, carries } = this.options
    const machine = this.stored(id)
    if (machine.runId !== undefined && carries(machine.runId) && ['loading', 'draining'].includes(machine.state))
      throw new ControlError(
        'carries-load',
        409,
        `${machine.name} carries load of run ${machine.runId}.`,
        'Stop the run first, or abort it.',
      )
    try {
      await fleet.releaseMachine(id, 'released by hand')
    }
    catch (error) {
      throw asProblem(error)
    }
    await fleet.look()
  }

  async extend(id: string, minutes: number): Promise<void> {
    const { fleet, money, clock } = this.options
    const machine = this.stored(id)
    const until = Math.max(machine.leaseEndsAt, clock.now()) + minutes * 60_000
    const more =
      machine.allocatedAt === undefined
        ? 0
        : costOf(machine.price, until - machine.allocatedAt) -
          costOf(machine.price, machine.leaseEndsAt - machine.allocatedAt)
    const { rails } = money
    const spent = money.today(clock.now())
    if (more > 0 && spent + more > rails.budgetPerDay)
      throw new ControlError(
        'budget',
        409,
        `${minutes} min more cost ${amount(more, rails.currency)}; ${amount(Math.max(0, rails.budgetPerDay - spent), rails.currency)} are left of today’s budget.`,
        'Release something else, or raise the budget.',
      )
    try {
      await fleet.extend(id, until, 'extended by hand')
    }
    catch (error) {
      throw asProblem(error)
    }
  }

  async releaseStray(provider: string, ref: string): Promise<void> {
    const { fleet } = this.options
    if (!fleet.strays.some(s => s.provider === provider && s.machine.ref === ref)) throw notFound(`stray ${ref}`)
    try {
      await fleet.releaseStray(provider, ref)
    }
    catch (error) {
      throw asProblem(error)
    }
  }

  /** Asks every provider now, also for what may lie where nobody looked for a while. */
  async look(): Promise<void> {
    for (const provider of this.options.providers.values()) provider.searchAgain?.()
    await this.options.fleet.look()
  }

  /**
   * Calls the roll of these machines, or of all that are connected; answers come by themselves. @returns how many were
   * asked
   */
  callRoll(ids?: readonly string[], targetId?: string): number {
    const { machines, hub, rollCaller, target } = this.options
    const chosen = ids?.map(id => this.stored(id)) ?? machines.out()
    const asked = targetId === undefined ? undefined : target(targetId)
    if (targetId !== undefined && !asked) throw notFound(`target ${targetId}`)
    let count = 0
    for (const machine of chosen) {
      const connection = hub.connections.get(machine.id)
      if (!connection) continue
      const where = asked ? whereToReach(asked) : { hosts: [], addressRanges: [] }
      rollCaller.ask(machine, connection, { ...where, runtimes: [] }, undefined, true)
      count++
    }
    return count
  }

  rollCall(): RollCallView {
    const { machines, rollCaller, hub } = this.options
    const connected = machines.out().filter(m => hub.connections.has(m.id))
    const { called, findings } = rollCaller.judgeLatest(connected)
    return {
      machines: called,
      findings: findings.filter((f: RollCallFinding) => f.code !== 'silent' && f.code !== 'nonce'),
    }
  }

  get rails(): GuardRails {
    return this.options.money.rails
  }

  set rails(rails: GuardRails) {
    this.options.money.rails = rails
  }

  /** By run, by day and by plan, as reckoned and as billed. */
  costs(days = 7): CostsView {
    const { machines, money, clock, runNames } = this.options
    const now = clock.now()
    const midnight = new Date(now).setHours(0, 0, 0, 0)
    const from = midnight - Math.min(days, MOST_DAYS) * DAY_MS
    const all = machines.outSince(from)
    const names = runNames()
    const byDay = Array.from({ length: Math.min(days, MOST_DAYS) + 1 }, (_, i) => {
      const day = midnight - i * DAY_MS
      return { day, cost: all.reduce((sum, m) => sum + money.costBetween(m, day, Math.min(now, day + DAY_MS)), 0) }
    }).filter((d, i) => i === 0 || d.cost > 0)
    const stays = machines.crewSince(from)
    const runs = [...new Set(stays.map(s => s.runId))]
      .sort((a, b) => b - a)
      .map((runId) => {
        const own = machines.everOfRun(runId)
        const billed = own.every(o => o.machine.billed !== undefined || o.machine.price.perHour === 0)
          ? own.reduce((sum, o) => sum + (o.machine.billed ?? 0), 0)
          : undefined
        return {
          runId,
          plan: names.get(runId)?.plan ?? '',
          machines: own.length,
          cost: money.ofRun(runId, now),
          ...defined({ forecast: names.get(runId)?.forecast }),
          ...(billed === undefined ? {} : { billed }),
        }
      })
    const plans = new Map<string, number>()
    for (const r of runs) plans.set(r.plan, (plans.get(r.plan) ?? 0) + r.cost)
    return {
      now,
      rails: money.rails,
      today: money.today(now),
      committed: money.committed(now),
      byDay,
      runs,
      plans: [...plans].map(([plan, cost]) => ({ plan, cost })),
    }
  }

  /** Machines and what they cost, one row each, since a number of days. */
  csv(days = MOST_DAYS): string {
    const { machines, money, clock } = this.options
    const now = clock.now()
    const moment = (at: number | undefined) => (at === undefined ? '' : new Date(at).toISOString())
    const heading = [
      'machine',
      'run',
      'location',
      'provider',
      'region',
      'type',
      'interruptible',
      'state',
      'asked',
      'allocated',
      'gone',
      'lease ends',
      'price per hour',
      'other bills per hour',
      'billed in steps of s',
      'currency',
      'prices of',
      'cost',
      'billed by provider',
    ]
    return csvOf([
      heading,
      ...machines
        .outSince(now - days * DAY_MS)
        .map(m => [
          m.name,
          m.runId ?? machines.crewOf(m.id).at(-1)?.runId ?? '',
          m.location,
          m.provider,
          m.region,
          m.type,
          m.price.interruptible ? 'yes' : 'no',
          m.state,
          moment(m.askedAt),
          moment(m.allocatedAt),
          moment(m.goneAt),
          moment(m.leaseEndsAt),
          m.price.perHour,
          m.price.extrasPerHour,
          m.price.grainS,
          m.price.currency,
          m.price.asOf,
          Number(money.costSoFar(m, now).toFixed(6)),
          m.billed ?? '',
        ]),
    ])
  }

  private stored(id: string): Machine {
    const machine = this.options.machines.machine(id)
    if (!machine) throw notFound(`machine ${id}`)
    return machine
  }
}

/** What a provider did not do is told to the one who asked for it; it goes on being tried. */
function asProblem(error: unknown): unknown {
  return error instanceof ProviderSilent
    ? new ControlError(
        'provider-silent',
        502,
        `${error.message.replace(/\.$/, '')}.`,
        'Vornak goes on trying; the machine stays in sight until its provider confirms.',
      )
    : error
}
