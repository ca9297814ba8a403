/** What machines cost: now, today, by run; and the guard rails that refuse what would cost or load too much. */
import { leaseMsOf } from './orders'
import { costOf } from '../../core/offers/cost'
import type { Machine, MachineStore, MachineStay, Waiting } from '../store/machines'
import type { FactStore } from '../store/facts'
import { fromStore } from '../store/from-store'

/** What nobody may pass. Amounts in `currency`. */
export interface GuardRails {
  mostMachines: number
  mostUsers: number
  longestRunMin: number
  budgetPerRun: number
  budgetPerDay: number
  currency: string
}

export class Money {
  constructor(
    private readonly machines: MachineStore,
    private readonly facts: FactStore,
    private readonly usual: GuardRails,
  ) {}

  get rails(): GuardRails {
    const kept = this.facts.get('guardRails')
    return kept === undefined ? this.usual : { ...this.usual, ...fromStore<Partial<GuardRails>>(kept) }
  }

  set rails(rails: GuardRails) {
    this.facts.set('guardRails', JSON.stringify(rails))
  }

  /** What a machine has cost between two moments. */
  costBetween(machine: Machine, from: number, to: number): number {
    if (machine.allocatedAt === undefined) return 0
    const end = Math.min(to, machine.goneAt ?? to)
    return Math.max(
      0,
      costOf(machine.price, end - machine.allocatedAt) -
        costOf(machine.price, Math.min(end, from) - machine.allocatedAt),
    )
  }

  costSoFar(machine: Machine, now: number): number {
    return this.costBetween(machine, machine.allocatedAt ?? now, now)
  }

  today(now: number): number {
    const midnight = new Date(now).setHours(0, 0, 0, 0)
    return this.machines.outSince(midnight).reduce((sum, m) => sum + this.costBetween(m, midnight, now), 0)
  }

  /** What one machine's time with a run cost; time it was then kept waiting belongs to the run that kept it. */
  costOfStay(machine: Machine, { takenAt, nextAt, first }: MachineStay, now: number): number {
    return this.costBetween(machine, first ? (machine.allocatedAt ?? takenAt) : takenAt, nextAt ?? now)
  }

  ofRun(runId: number, now: number): number {
    return this.machines
      .everOfRun(runId)
      .reduce((sum, { machine, stay }) => sum + this.costOfStay(machine, stay, now), 0)
  }

  /** Cost still to come of everything that is out or ordered, should every lease run to its end. */
  committed(now: number): number {
    const toCome = (m: Machine) => {
      if (m.allocatedAt !== undefined) return costOf(m.price, m.leaseEndsAt - m.allocatedAt) - this.costSoFar(m, now)
      return m.triedAt === undefined ? 0 : costOf(m.price, leaseMsOf(m))
    }
    return this.machines.out().reduce((sum, m) => sum + toCome(m), 0)
  }

  /** Why one more machine may not be taken now; undefined: it may. */
  mayTake(machine: Machine, now: number): Pick<Waiting, 'code' | 'sentence'> | undefined {
    const { rails } = this
    const out = this.machines.out().filter(m => m.allocatedAt !== undefined).length
    if (out >= rails.mostMachines)
      return {
        code: 'most-machines',
        sentence: `${out} machines are out, the most allowed: raise the guard rail or release some.`,
      }
    const [spent, committed] = [this.today(now), this.committed(now)]
    const more = costOf(machine.price, leaseMsOf(machine))
    if (more > 0 && spent + committed + more > rails.budgetPerDay)
      return {
        code: 'budget',
        sentence: `today's budget of ${amount(rails.budgetPerDay, rails.currency)} would be passed: ${amount(spent, rails.currency)} are spent, ${amount(committed, rails.currency)} are committed until leases end, this machine may cost ${amount(more, rails.currency)} until its lease ends.`,
      }
    return undefined
  }
}

/** `€0.84`; other currencies by their code. */
export function amount(value: number, currency: string): string {
  return `${currency === 'EUR' ? '€' : `${currency} `}${value.toFixed(2)}`
}
