/** The target's own figures in any window of a run: what objectives about them are held against. */
import type { Objective, TargetMeasure } from '../plan/document'
import type { Window } from './windows'

/** One line of a series, as read: run times in s, null where nothing was read. */
export interface TargetLineValues {
  series: string
  /** Value of the label that tells its lines apart; empty: it is not split. */
  split: string
  /** How often it is read, s. */
  everyS: number
  atS: readonly number[]
  values: readonly (number | null)[]
}

/** A stretch without a reading may be so long: of the window it is in, and in beats of its source. */
const MOST_UNREAD_SHARE = 0.5
const MOST_UNREAD_BEATS = 2.5

export class TargetValues {
  constructor(private readonly lines: readonly TargetLineValues[] = []) {}

  /**
   * Of several lines the worst, as the objective's limit says. undefined: it was not read in the window, or not in a
   * stretch that is too long to say anything of all of it.
   */
  of({ target, atLeast }: Objective, window: Window): number | undefined {
    if (!target) return undefined
    const values = this.lines
      .filter(l => l.series === target.series && (target.split === undefined || l.split === target.split))
      .map(line => valueIn(line, window, target.extreme))
    const known = values.filter(v => v !== undefined)
    if (known.length === 0) return undefined
    return atLeast === undefined ? Math.max(...known) : Math.min(...known)
  }
}

function valueIn(
  { everyS, atS, values }: TargetLineValues,
  { fromS, toS }: Window,
  extreme: TargetMeasure['extreme'],
): number | undefined {
  let [sum, n, highest, lowest] = [0, 0, Number.NEGATIVE_INFINITY, Number.POSITIVE_INFINITY]
  let [readS, unreadS] = [fromS, 0]
  for (let i = firstFrom(atS, fromS); i < atS.length && atS[i]! < toS; i++) {
    const value = values[i]
    if (value === null || value === undefined) continue
    sum += value
    n++
    highest = Math.max(highest, value)
    lowest = Math.min(lowest, value)
    unreadS = Math.max(unreadS, atS[i]! - readS)
    readS = atS[i]!
  }
  unreadS = Math.max(unreadS, toS - readS)
  if (n === 0 || unreadS > Math.max(MOST_UNREAD_BEATS * everyS, MOST_UNREAD_SHARE * (toS - fromS))) return undefined
  return extreme === undefined ? sum / n : extreme === 'highest' ? highest : lowest
}

/** Place of the first moment that is not before it. */
function firstFrom(atS: readonly number[], fromS: number): number {
  let [low, high] = [0, atS.length]
  while (low < high) {
    const middle = (low + high) >> 1
    if (atS[middle]! < fromS) low = middle + 1
    else high = middle
  }
  return low
}
