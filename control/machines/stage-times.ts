/** How long machines usually take on their way to enrolment, per provider, and when one has taken too long. */
import type { MachineStore } from '../store/machines'
import type { MachineState } from '../../core/run/machine-life'

/** A stage is given twice the 95th percentile seen, within these bounds, ms. */
export interface StageBounds {
  leastMs: number
  mostMs: number
}
const USUAL_BOUNDS: StageBounds = { leastMs: 4 * 60_000, mostMs: 12 * 60_000 }
/** Stages remembered per provider; older ones tell about another day. */
const MOST_SEEN = 200

/** Stages that may take too long. */
export const TIMED_STAGES: readonly MachineState[] = ['allocated', 'booting', 'installing']

export class StageTimes {
  private readonly seen = new Map<string, Map<MachineState, number[]>>()
  private readonly readUpTo = new Map<string, number>()

  constructor(
    private readonly machines: MachineStore,
    readonly bounds: StageBounds = USUAL_BOUNDS,
  ) {}

  /** Longest a machine of this provider may stay in a stage, ms. */
  timeoutMs(provider: string, stage: MachineState): number {
    const times = this.timesOf(provider).get(stage)
    if (!times?.length) return this.bounds.leastMs
    return Math.min(this.bounds.mostMs, Math.max(this.bounds.leastMs, 2 * rank(times, 0.95)))
  }

  /** Usual time from allocation to enrolment, ms; undefined while none has been seen. */
  usualMs(provider: string): number | undefined {
    const times = this.timesOf(provider)
    if (times.size === 0) return undefined
    return TIMED_STAGES.reduce((sum, stage) => {
      const of = times.get(stage) ?? []
      return sum + (of.length > 0 ? rank(of, 0.5) : 0)
    }, 0)
  }

  private timesOf(provider: string): Map<MachineState, number[]> {
    const after = this.readUpTo.get(provider) ?? 0
    const last = this.machines.lastChangeId()
    let times = this.seen.get(provider)
    if (!times) this.seen.set(provider, (times = new Map()))
    if (last === after) return times
    this.readUpTo.set(provider, last)
    for (const { stage, ms } of this.machines.stageTimes(provider, after)) {
      const list = times.get(stage) ?? []
      list.push(ms)
      if (list.length > MOST_SEEN) list.shift()
      times.set(stage, list)
    }
    return times
  }
}

/** Nearest rank. */
function rank(values: readonly number[], p: number): number {
  const sorted = [...values].sort((a, b) => a - b)
  return sorted[Math.max(0, Math.ceil(p * sorted.length) - 1)]!
}
