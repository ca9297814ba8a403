/** Where one signal meets its limit: a straight line where the levels lie on one, else the best never-falling curve. */
import { isotonic } from './isotonic'
import { lineThrough, meets, type Line } from './line'
import type { LevelMean } from './steps-watched'

export interface Crossing {
  users: number
  /** 95 % interval. */
  lower: number
  upper: number
}

export interface SignalFit {
  shape: 'line' | 'curve'
  limit: number
  /** The fit at the levels watched, for drawing; a line also beyond them. */
  points: { users: number, value: number }[]
  /** Value at no users, and what each user adds: of the line through all levels. */
  base: number
  perUser: number
  /** Where it meets its limit, also beyond the levels tried; undefined: it does not rise. */
  crossing: Crossing | undefined
  /** Where it would meet its limit if it went on as between the last levels; for planning alone. */
  ahead: number | undefined
  /** Whether it rises at all, beyond its noise. */
  rises: boolean
  /** The largest level within the limit and the smallest beyond it; undefined where there is none. */
  within: number | undefined
  beyond: number | undefined
}

/** Two-sided 95 % of Student's t with 11 degrees of freedom: about what the resembling seconds of a calibration are worth. */
const Z95 = 2.201
/** Levels that a line must explain before it is believed. */
const FEWEST_FOR_LINE = 3
/** A slope this many standard errors above none is real. */
const SURE_Z = 3
/** How far chi-square may lie above its mean, in standard deviations. */
const STRAIGHT_Z = 2.3
/** Noise of shape that seconds do not show: levels differ this much of themselves from any model. */
const MODEL_SHARE = 0.01
/** A crossing read off between two levels keeps this share of the way from both: what jumps could do so anywhere between. */
const FROM_ENDS = 0.25

/** @param levels rising in users, one mean per level */
export function fitSignal(levels: readonly LevelMean[], limit: number): SignalFit {
  const all = line(levels)
  const bracket = bracketOf(levels, limit)
  // Where the whole is bent, the part near the limit may be straight.
  const straight = straightPart(levels, limit)
  const rises = levels.length > 1 && ((all !== undefined && all.slope > SURE_Z * Math.sqrt(all.varSlope)) || levels.some(l => l.mean - SURE_Z * l.se > limit))
  const shared = { limit, rises, ahead: aheadOf(levels, limit), base: all?.intercept ?? levels[0]?.mean ?? 0, perUser: all?.slope ?? 0, ...bracket }
  if (straight) {
    const met = meets(straight.line, limit)
    const first = straight.levels[0]!.users
    return {
      ...shared, shape: 'line',
      points: levels.filter(l => l.users >= first).map(l => ({ users: l.users, value: straight.line.intercept + straight.line.slope * l.users })),
      crossing: met && met.at > 0 ? { users: met.at, lower: Math.max(0, met.at - Z95 * met.se), upper: met.at + Z95 * met.se } : met ? { users: 0, lower: 0, upper: 0 } : undefined,
    }
  }
  const curve = (shift: number) => isotonic(levels.map(l => l.mean + shift * l.se), levels.map(l => 1 / l.se ** 2))
  const best = curve(0)
  const at = crossingOf(levels, best, limit)
  // More noise upwards would bring the crossing down, and the other way round; it is known no better than the levels are apart.
  const lower = crossingOf(levels, curve(Z95), limit)
  const upper = crossingOf(levels, curve(-Z95), limit)
  return {
    ...shared, shape: 'curve', points: levels.map((l, k) => ({ users: l.users, value: best[k]! })),
    crossing: at === undefined ? undefined : {
      users: at, lower: Math.min(lower ?? at, bracket.within ?? 0, at), upper: Math.max(upper ?? levels.at(-1)!.users, bracket.beyond ?? at, at),
    },
  }
}

/** By the slope between the last level and the one before it that lies lower. */
function aheadOf(levels: readonly LevelMean[], limit: number): number | undefined {
  const fitted = isotonic(levels.map(l => l.mean), levels.map(l => 1 / l.se ** 2))
  const last = levels.length - 1
  const before = fitted.findLastIndex(v => v < fitted[last]! - 1e-12)
  if (before < 0) return undefined
  const slope = (fitted[last]! - fitted[before]!) / (levels[last]!.users - levels[before]!.users)
  return levels[last]!.users + (limit - fitted[last]!) / slope
}

function line(levels: readonly LevelMean[]): Line | undefined {
  return lineThrough(levels.map(l => l.users), levels.map(l => l.mean), levels.map(seOf))
}

function seOf(level: LevelMean): number {
  return Math.hypot(level.se, MODEL_SHARE * level.mean)
}

/** The longest run of upper levels that lies on a line and reaches the limit, or comes near it; all of them first. */
function straightPart(levels: readonly LevelMean[], limit: number): { line: Line, levels: readonly LevelMean[] } | undefined {
  for (let from = 0; levels.length - from >= FEWEST_FOR_LINE; from++) {
    const part = levels.slice(from)
    const fit = line(part)
    const freedom = part.length - 2
    if (!fit || fit.chiSquare > freedom + STRAIGHT_Z * Math.sqrt(2 * freedom)) continue
    // A part of a bent whole speaks for the limit only if it goes to both sides of it.
    if (from > 0 && !(part[0]!.mean < limit && part.at(-1)!.mean > limit)) return undefined
    return { line: fit, levels: part }
  }
  return undefined
}

function bracketOf(levels: readonly LevelMean[], limit: number): { within: number | undefined, beyond: number | undefined } {
  const fitted = isotonic(levels.map(l => l.mean), levels.map(l => 1 / l.se ** 2))
  const first = fitted.findIndex(v => v > limit)
  const within = first < 0 ? levels.at(-1) : levels[first - 1]
  return { within: within?.users, beyond: first < 0 ? undefined : levels[first]!.users }
}

/** Between the last level within and the first beyond. @returns undefined when no level is beyond; 0 when all are */
function crossingOf(levels: readonly LevelMean[], fitted: readonly number[], limit: number): number | undefined {
  const first = fitted.findIndex(v => v > limit)
  if (first < 0) return undefined
  if (first === 0) return 0
  const [a, b] = [levels[first - 1]!.users, levels[first]!.users]
  const [low, high] = [fitted[first - 1]!, fitted[first]!]
  const way = Math.min(1 - FROM_ENDS, Math.max(FROM_ENDS, (limit - low) / (high - low)))
  return a + (b - a) * way
}
