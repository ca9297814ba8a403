/**
 * Chooses the next level of a calibration: a few low ones, a prediction of where the first signal meets its limit,
 * levels close to it, and one longer level that confirms. Most seconds lie where they matter; that is about three times
 * quicker than doubling and bisecting.
 */
import { estimate, ownSignals, type Estimate, type HeldLevel, type SeenSignal } from './estimate'
import { SIGNAL_LIMITS, worstSignal } from './signals'
import { median } from '../values/median'

/** How long levels are held. */
export interface LevelPace {
  /** Seconds of a level that count, and those of settling in before them. */
  holdS: number
  settleS: number
  /** Of the confirming level, unless three passes take longer. */
  confirmS: number
}

const USUAL_PACE: LevelPace = { holdS: 8, settleS: 6, confirmS: 30 }

export interface StepRules extends LevelPace {
  /** First level, users of one generator. */
  first: number
  /** No level goes beyond this. */
  most: number
}

/** `warm`: held so that code is warm, and not counted. */
export interface CalibrationStep {
  users: number
  settleS: number
  holdS: number
  kind: 'warm' | 'low' | 'near' | 'confirm'
}

/** @param passMs expected length of a pass */
export function rulesFor(first: number, most: number, passMs: number, pace = USUAL_PACE): StepRules {
  return {
    first: Math.max(1, Math.min(first, most)),
    most,
    ...pace,
    confirmS: Math.max(pace.confirmS, Math.ceil((3 * passMs) / 1000)),
  }
}

/**
 * Levels are held until their seconds are worth this many independent ones: of an autoregression, n seconds are worth
 * n·(1 − ρ) ÷ (1 + ρ) (Bartlett 1946).
 */
const WORTH_S = 2
/** They are held no more than this many times as long for it. */
const MOST_LONGER = 5
const MOST_LONGER_CONFIRMED = 3
/** Where a level is known this well, as a share of the limit, none is held longer. */
const KNOWN_LEVEL = 0.02
/**
 * Levels are raised by no more than this at once: predictions from little load are bold; less once a signal has come
 * some way to its limit.
 */
const MOST_RISE = 4
const MOST_RISE_LOADED = 1.6
const SOME_WAY = 0.3
/** Levels below this share of the prediction are low. */
const NEAR_SHARE = 0.6
/** Where the first near level lies, and the one beyond. */
const BELOW = 0.88
const ABOVE = 1.08
/** Where it is in doubt whether there is one, levels go on by this share, to this many times where it would be. */
const ABOVE_DOUBT = 1.15
const FURTHEST = 1.6
/** A crossing is known well enough when its interval is this small a share of it. */
const KNOWN_SHARE = 0.08
/** Between two levels this close, as a share, nothing more is asked. */
const CLOSE_SHARE = 0.08
/** More levels than this are not tried. */
const MOST_LEVELS = 14
/** More of them confirm what the first has thrown over, or what only noise keeps from being known. */
const MOST_CONFIRMED = 3

/** @param levels held so far, in order @returns the next; undefined when all is known that can be */
export function nextStep(levels: readonly HeldLevel[], rules: StepRules): CalibrationStep | undefined {
  const { first, most, holdS, settleS, confirmS } = rules
  const confirmed = levels.filter(l => l.confirming).length
  const found = estimate(levels)
  const longer = longerBy(found, holdS)
  const step = (users: number, kind: CalibrationStep['kind'] = 'near'): CalibrationStep => ({
    users: Math.max(1, Math.min(most, Math.round(users))),
    settleS,
    holdS: Math.round(holdS * longer),
    kind,
  })
  if (levels.length === 0) return step(first, 'low')
  if (isHopeless(found, levels.length)) return undefined
  if (confirmed > 0 && (confirmed >= MOST_CONFIRMED || levels.length >= MOST_LEVELS || !isOpen(found, most)))
    return undefined
  const { largest } = found
  const expected = expectedCrossing(found)
  const rise = ownSignals(found).some(([, s]) => s.rises && (s.levels.at(-1)?.mean ?? 0) > SOME_WAY * s.limit)
    ? MOST_RISE_LOADED
    : MOST_RISE
  const confirm = (users: number): CalibrationStep | undefined => ({
    ...step(users, 'confirm'),
    holdS: Math.round(confirmS * Math.min(longer, MOST_LONGER_CONFIRMED)),
  })
  if (levels.length < 3 && largest < most) {
    // The third lies no further than where the first two say it gets interesting.
    return step(
      Math.min(largest * rise, Math.max(largest * 1.3, (expected ?? Number.POSITIVE_INFINITY) * BELOW)),
      'low',
    )
  }
  const binding = found.binds ? found.signals[found.binds] : undefined
  const crossing = binding?.crossing
  if (!crossing || expected === undefined || expected > largest / BELOW) {
    if (largest >= most) return confirm(most)
    if (levels.length >= MOST_LEVELS) return confirm(largest)
    return step(
      Math.min(largest * rise, Math.max(largest * 1.1, (expected ?? Number.POSITIVE_INFINITY) * BELOW)),
      (expected ?? Number.POSITIVE_INFINITY) * NEAR_SHARE > largest ? 'low' : 'near',
    )
  }
  if (levels.length >= MOST_LEVELS) return confirm(Math.min(expected, largest))
  if (confirmed > 0) return confirm(crossing.users * 0.98)
  if (binding.beyond === undefined && largest < most && largest < crossing.users * 1.02)
    return step(crossing.users * ABOVE)
  // It may bend so that it never meets its limit: what is further up tells.
  if (crossing.upper === undefined && largest < Math.min(most, FURTHEST * crossing.users))
    return step(largest * ABOVE_DOUBT)
  const [within, beyond] = [binding.within ?? 0, binding.beyond ?? largest]
  const known = crossing.upper !== undefined && crossing.upper - crossing.lower <= KNOWN_SHARE * crossing.users
  const close = beyond - within <= Math.max(1, CLOSE_SHARE * crossing.users)
  if (!known && !close) {
    // Between the two, where the fit puts it; the middle where that would repeat an end.
    const aim = binding.shape === 'line' ? crossing.users : (within + beyond) / 2
    const inside =
      aim > within + 0.15 * (beyond - within) && aim < beyond - 0.15 * (beyond - within) ? aim : (within + beyond) / 2
    if (!levels.some(l => l.users === Math.round(inside))) return step(inside)
  }
  return confirm(crossing.users * 0.98)
}

/** Where the first signal would meet its limit, as far as the fits go. */
function expectedCrossing(found: Estimate): number | undefined {
  return firstToMeet(found)?.at
}

/** The signal that would meet its limit first. */
function firstToMeet(found: Estimate): { at: number, signal: SeenSignal } | undefined {
  const meeting = ownSignals(found).flatMap(([, signal]) => {
    const at = signal.rises ? (signal.crossing?.users ?? signal.ahead) : undefined
    return at !== undefined && at > 0 ? [{ at, signal }] : []
  })
  return meeting.sort((a, b) => a.at - b.at)[0]
}

/** How many times as long levels are held, the more the seconds of what will bind resemble one another. */
function longerBy(found: Estimate, holdS: number): number {
  const signal = firstToMeet(found)?.signal
  if (!signal || (signal.levels.at(-1)?.se ?? 0) < KNOWN_LEVEL * signal.limit) return 1
  const resemblance = signal.resemblance ?? 0
  return Math.max(1, Math.min(MOST_LONGER, (WORTH_S * (1 + resemblance)) / (1 - resemblance) / holdS))
}

/** What the confirming level has left open: there is room above after all, or the seconds scatter too much. */
function isOpen({ outcome, why, largest }: Estimate, most: number): boolean {
  return outcome === 'atLeast' ? largest < most : why === 'noise'
}

/**
 * Nothing more can be learned: answers are wrong, the target gave out, neighbours leave too little, or the machine is
 * not quiet at the lowest load.
 */
function isHopeless({ why }: Estimate, levels: number): boolean {
  return (
    why === 'wrongAnswers' ||
    why === 'stolen' ||
    (why === 'target' && levels >= 3) ||
    (why === 'notQuiet' && levels >= 3)
  )
}

/**
 * Code is warm after some ten thousand requests: cold, one costs three times as much, and low levels would lie above
 * the line that the others are on.
 */
const WARM_TIMES = 10
/** Seconds over which users of a warming level come; with those after, it is as long as others are held. */
const WARM_S = 4
/**
 * The second of two warming levels brings the CPU to this share of its limit, with no more than this many times the
 * users of the first.
 */
const WARM_SHARE = 0.6
const MOST_WARMER = 8
/** Less than this is no second level. */
const LEAST_WARMER = 1.5

/** Held before the first level that counts. @param warmed those held so far @returns undefined when it is warm */
export function warmingStep(
  { first, most, holdS }: StepRules,
  warmed: readonly HeldLevel[] = [],
): CalibrationStep | undefined {
  const step = (users: number): CalibrationStep => ({
    users: Math.min(most, Math.round(users)),
    settleS: WARM_S,
    holdS: holdS - WARM_S,
    kind: 'warm',
  })
  const [before] = warmed
  if (!before) return step(first * WARM_TIMES)
  const cpu = median(before.seconds.map(s => s.health.cpuShare))
  const times = Math.min(MOST_WARMER, most / before.users, (WARM_SHARE * SIGNAL_LIMITS.cpuShare) / cpu)
  const isWell = before.seconds.length > 0 && median(before.seconds.map(s => worstSignal(s.health).ratio)) < WARM_SHARE
  return warmed.length > 1 || !isWell || !(times >= LEAST_WARMER) ? undefined : step(before.users * times)
}

/** A level that is far beyond the limits need not be held to its end. @param seconds of it so far */
export function farBeyond(seconds: HeldLevel['seconds']): boolean {
  return seconds.length >= 6 && median(seconds.map(s => worstSignal(s.health).ratio)) > 1.6
}
