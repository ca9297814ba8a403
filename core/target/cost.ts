/** What a target cost for a run itself: how much more of it there was than at rest, and what it served. */
import { median } from '../values/median'
import type { Value } from './recovery'
import type { StandsFor } from './source'
import { keysIn } from '../values/written-out'

/** As its owner pays for it, in the currency of the house; what is left out is not known. */
export interface TargetPrices {
  perReplicaHour?: number
  perCall?: number
  /** Of memory. */
  perGbSecond?: number
}

/** One part of it: how much, and what that costs. */
export interface CostPart {
  of: 'replicas' | 'calls' | 'memory' | 'told'
  /** Replica-hours, or GB·s, above those at rest; calls; of what a series tells the cost of an hour of: money. */
  amount: number
  cost: number
}

/** A series as far as it matters here; values of counters are what they grew by. */
export interface CostedSeries {
  standsFor?: StandsFor
  unit?: string
  lines: readonly (readonly Value[])[]
}

const PRICE_OF = { replicas: 'perReplicaHour', calls: 'perCall', memory: 'perGbSecond' } as const
const S_PER_HOUR = 3600
/** Bytes of units as series write them, in GB. */
const GB_OF: Readonly<Record<string, number>> = {
  B: 1e-9,
  kB: 1e-6,
  MB: 1e-3,
  GB: 1,
  KiB: 2 ** 10 / 1e9,
  MiB: 2 ** 20 / 1e9,
  GiB: 2 ** 30 / 1e9,
}

/**
 * @returns parts whose price and amount are known, what a series itself tells the cost per hour of among them; memory
 * in an unknown unit is left out
 */
export function targetCost(prices: TargetPrices, series: readonly CostedSeries[]): CostPart[] {
  const told = series.filter(s => s.standsFor === 'costPerHour')
  const cost = told.reduce((sum, s) => sum + s.lines.reduce((n, values) => n + aboveRest(values), 0), 0) / S_PER_HOUR
  const parts = keysIn(PRICE_OF).flatMap((of) => {
    const price = prices[PRICE_OF[of]]
    const own = series.filter(s => s.standsFor === of && (of !== 'memory' || s.unit === undefined || s.unit in GB_OF))
    if (price === undefined || own.length === 0) return []
    const amount = own.reduce((sum, s) => sum + s.lines.reduce((n, values) => n + amountOf(of, values, s.unit), 0), 0)
    return [{ of, amount, cost: amount * price }]
  })
  return told.length > 0 ? [...parts, { of: 'told' as const, amount: cost, cost }] : parts
}

function amountOf(of: keyof typeof PRICE_OF, values: readonly Value[], unit = 'B'): number {
  if (of === 'calls') return (values[values.length - 1]?.value ?? 0) - (values.findLast(v => v.atS <= 0)?.value ?? 0)
  const above = aboveRest(values)
  return of === 'replicas' ? above / S_PER_HOUR : above * (GB_OF[unit] ?? 0)
}

/** A gauge above its median before the load, from its beginning on, times s: each reading holds until the next. */
function aboveRest(values: readonly Value[]): number {
  const before = values.filter(v => v.atS <= 0).map(v => v.value)
  if (before.length === 0) return 0
  const rest = median(before)
  return values.reduce((sum, { atS, value }, i) => {
    const untilS = values[i + 1]?.atS ?? atS
    return sum + (value - rest) * Math.max(0, untilS - Math.max(0, atS))
  }, 0)
}
