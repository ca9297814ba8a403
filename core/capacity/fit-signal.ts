/** Where one signal meets its limit, by several models of how it rises. */
import { isotonic } from './isotonic'
import { lineThrough, meets, type StraightLine } from './line'
import { parabolaThrough } from './parabola'
import type { LevelMean } from './steps-watched'

export interface Crossing {
  users: number
  /** 95 % interval; without `upper` it may as well never be met. */
  lower: number
  upper?: number
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

/**
 * Two-sided 95 % of Student's t with 11 degrees of freedom: about what the resembling seconds of a calibration are
 * worth.
 */
const Z95 = 2.201
/** Levels that a line, and a bent one, must explain before they are believed. */
const FEWEST_FOR_LINE = 3
const FEWEST_FOR_BENT = 4
/**
 * At least this many levels of a part must lie within the limit: with a single one the bend could be anywhere after it.
 */
const WITHIN_OF_PART = 2
/** A slope this many standard errors above none is real. */
const SURE_Z = 3
/** How far chi-square may lie above its mean, in standard deviations. */
const STRAIGHT_Z = 2.3
/** Noise of shape that seconds do not show: levels differ this much of themselves from any model. */
const MODEL_SHARE = 0.01
/**
 * A crossing read off between two levels keeps this share of the way from both: what jumps could do so anywhere
 * between.
 */
const FROM_ENDS = 0.25
/**
 * Models whose chi-square, with 2 for each number they are free to choose (Akaike 1974), is above that of the best by
 * no more than this may be the truth as well.
 */
const AS_GOOD = 2

/** One way to see the levels, and where it meets the limit. */
interface Model {
  shape: SignalFit['shape']
  /** Chi-square, and 2 for each free number. */
  score: number
  valueAt: (users: number) => number
  /** First of the levels it is about. */
  from: number
  /** Undefined: it never does. */
  crossing: Crossing | undefined
}

/**
 * Several models are held against the levels: a straight line through all of them, or through the upper ones, a bent
 * one, and the best never-falling curve. The best of them says where the limit is met; the interval
 * is the hull of those that explain the levels as well. One of them that never meets it leaves it open upwards.
 *
 * @param levels rising in users, one mean per level
 */
export function fitSignal(levels: readonly LevelMean[], limit: number): SignalFit {
  const all = line(levels)
  const bracket = bracketOf(levels, limit)
  const rises =
    levels.length > 1 &&
    ((all !== undefined && all.slope > SURE_Z * Math.sqrt(all.varSlope)) ||
      levels.some(l => l.mean - SURE_Z * l.se > limit))
  const shared = {
    limit,
    rises,
    ahead: aheadOf(levels, limit),
    base: all?.intercept ?? levels[0]?.mean ?? 0,
    perUser: all?.slope ?? 0,
    ...bracket,
  }
  const models = [...lines(levels, limit), ...bent(levels, limit), curve(levels, limit, bracket)].sort(
    (a, b) => a.score - b.score,
  )
  const best = models[0]!
  const likely = models.filter(m => m.score <= best.score + AS_GOOD)
  const points = levels.slice(best.from).map(({ users }) => ({ users, value: best.valueAt(users) }))
  const { crossing } = best
  const upper = Math.max(...likely.map(m => m.crossing?.upper ?? Number.POSITIVE_INFINITY))
  if (!crossing) return { ...shared, shape: best.shape, points, crossing }
  return {
    ...shared,
    shape: best.shape,
    points,
    crossing: {
      users: crossing.users,
      lower: Math.min(...likely.flatMap(m => m.crossing?.lower ?? [])),
      ...(Number.isFinite(upper) ? { upper } : {}),
    },
  }
}

function line(levels: readonly LevelMean[]): StraightLine | undefined {
  return lineThrough(
    levels.map(l => l.users),
    levels.map(l => l.mean),
    levels.map(seOf),
  )
}

function seOf(level: LevelMean): number {
  return Math.hypot(level.se, MODEL_SHARE * level.mean)
}

/**
 * Straight lines through all levels, or those from one on: levels left out below count as explained by one free number
 * each. A part speaks for the limit only if it goes to both sides of it, and shows on the lower one that it is straight
 * there.
 */
function lines(levels: readonly LevelMean[], limit: number): Model[] {
  return levels.flatMap((_, from): Model[] => {
    const part = levels.slice(from)
    const fit = part.length >= FEWEST_FOR_LINE ? line(part) : undefined
    if (
      !fit ||
      !explains(fit.chiSquare, part.length - 2) ||
      (from > 0 && !(part[WITHIN_OF_PART - 1]!.mean < limit && part[part.length - 1]!.mean > limit))
    )
      return []
    const met = meets(fit, limit)
    return [
      {
        shape: 'line',
        score: fit.chiSquare + 2 * (2 + from),
        valueAt: u => fit.intercept + fit.slope * u,
        from,
        crossing: met && within95(met.at, met.se * scatter(fit.chiSquare, part.length - 2)),
      },
    ]
  })
}

/** A parabola: how a signal bends as far as it does so evenly. */
function bent(levels: readonly LevelMean[], limit: number): Model[] {
  if (levels.length < FEWEST_FOR_BENT) return []
  const fit = parabolaThrough(
    levels.map(l => l.users),
    levels.map(l => l.mean),
    levels.map(seOf),
  )
  if (!fit || !explains(fit.chiSquare, levels.length - 3)) return []
  const met = fit.meets(limit)
  return [
    {
      shape: 'curve',
      score: fit.chiSquare + 6,
      valueAt: fit.valueAt,
      from: 0,
      crossing: met && within95(met.at, met.se * scatter(fit.chiSquare, levels.length - 3)),
    },
  ]
}

/** The best never-falling curve: a free number for each of its steps. */
function curve(
  levels: readonly LevelMean[],
  limit: number,
  bracket: { within: number | undefined, beyond: number | undefined },
): Model {
  const fit = (shift: number) =>
    isotonic(
      levels.map(l => l.mean + shift * l.se),
      levels.map(l => 1 / l.se ** 2),
    )
  const best = fit(0)
  const at = crossingOf(levels, best, limit)
  // More noise upwards would bring the crossing down, and the other way round; it is known no better than the levels
  // are apart.
  const lower = crossingOf(levels, fit(Z95), limit)
  const upper = crossingOf(levels, fit(-Z95), limit)
  const chiSquare = levels.reduce((sum, l, k) => sum + ((l.mean - best[k]!) / seOf(l)) ** 2, 0)
  return {
    shape: 'curve',
    score: chiSquare + 2 * new Set(best).size,
    from: 0,
    valueAt: users => best[levels.findIndex(l => l.users === users)]!,
    crossing:
      at === undefined
        ? undefined
        : {
            users: at,
            lower: Math.min(lower ?? at, bracket.within ?? 0, at),
            upper: Math.max(upper ?? levels[levels.length - 1]!.users, bracket.beyond ?? at, at),
          },
  }
}

function explains(chiSquare: number, freedom: number): boolean {
  return chiSquare <= freedom + STRAIGHT_Z * Math.sqrt(2 * freedom)
}

/**
 * What levels scatter about a model more than their seconds say they should, its errors are larger (the ratio of Birge
 * 1932).
 */
function scatter(chiSquare: number, freedom: number): number {
  return Math.sqrt(Math.max(1, chiSquare / Math.max(1, freedom)))
}

function within95(at: number, se: number): Crossing {
  return at > 0
    ? { users: at, lower: Math.max(0, at - Z95 * se), upper: at + Z95 * se }
    : { users: 0, lower: 0, upper: 0 }
}

/** By the slope between the last level and the one before it that lies lower. */
function aheadOf(levels: readonly LevelMean[], limit: number): number | undefined {
  const fitted = isotonic(
    levels.map(l => l.mean),
    levels.map(l => 1 / l.se ** 2),
  )
  const last = levels.length - 1
  const before = fitted.findLastIndex(v => v < fitted[last]! - 1e-12)
  if (before < 0) return undefined
  const slope = (fitted[last]! - fitted[before]!) / (levels[last]!.users - levels[before]!.users)
  return levels[last]!.users + (limit - fitted[last]!) / slope
}

function bracketOf(
  levels: readonly LevelMean[],
  limit: number,
): { within: number | undefined, beyond: number | undefined } {
  const fitted = isotonic(
    levels.map(l => l.mean),
    levels.map(l => 1 / l.se ** 2),
  )
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
