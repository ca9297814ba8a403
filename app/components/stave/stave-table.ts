/**
 * What the charts of a run show, as a sentence and as rows of a table: for anyone who does not see them, and for anyone
 * anyone who wants to read rather than look.
 */
import type { SecondFigures } from '~~/core/merge/second-figures'
import { count, rate, timeText } from '~~/core/values/said-figures'
import { runTime } from '~/format/moments'
import { present } from './stave-lines'
import { PLACE, type JudgedFigure } from './stave-judged'

/** Lengths of a row, s. */
const LENGTHS_S = [1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 900, 1800, 3600, 7200, 14_400, 28_800]
const MOST_ROWS = 24

/** Seconds `fromS` (inclusive) to `toS` (exclusive) of a run. */
export interface StaveRow {
  fromS: number
  toS: number
  /** Most users present at the end of one of its seconds. */
  users: number
  /** Worst second of the figure that is drawn, ms, and which one it was; undefined: nothing was measured. */
  worst: { ms: number, second: number } | undefined
  /** Requests begun in a second, on average over those seconds that are known. */
  perSecond: number
  failed: number
}

/** @param seconds by run second; holes where nothing came. @param span what is shown of the run */
export function staveRows(
  seconds: readonly (SecondFigures | undefined)[],
  { fromS, toS }: { fromS: number, toS: number },
  judged: JudgedFigure,
): StaveRow[] {
  const lengthS = LENGTHS_S.find(s => (toS - fromS) / s <= MOST_ROWS) ?? Math.ceil((toS - fromS) / MOST_ROWS)
  const starts = Array.from({ length: Math.ceil((toS - fromS) / lengthS) }, (_, i) => fromS + i * lengthS)
  return starts.flatMap((start) => {
    const end = Math.min(toS, start + lengthS)
    const known = seconds.slice(start, end).filter(s => s !== undefined)
    if (known.length === 0) return []
    return [{
      fromS: start,
      toS: end,
      users: Math.max(...known.map(present)),
      worst: worstOf(known, judged),
      perSecond: known.reduce((sum, s) => sum + s.started, 0) / known.length,
      failed: known.reduce((sum, s) => sum + s.failed, 0),
    }]
  })
}

function worstOf(known: readonly SecondFigures[], judged: JudgedFigure): StaveRow['worst'] {
  const values = known.flatMap((s) => {
    const ms = judged.inked ? judged.figuresIn(s)?.[PLACE[judged.inked]] : judged.ownMs(s)
    return ms === null || ms === undefined ? [] : [{ ms, second: s.second }]
  })
  return values.length === 0 ? undefined : values.reduce((a, b) => (b.ms > a.ms ? b : a))
}

/** “+00:00 to +06:21: up to 240 users, …”. @param name of the figure that is drawn @param atMost its limit, ms */
export function sayStave(rows: readonly StaveRow[], name: string, atMost: number | undefined): string {
  const [first, last] = [rows[0], rows.at(-1)]
  if (!first || !last) return 'Nothing was measured.'
  const measured = rows.flatMap(r => (r.worst ? [r.worst] : []))
  const worst = measured.length === 0 ? undefined : measured.reduce((a, b) => (b.ms > a.ms ? b : a))
  const failed = rows.reduce((sum, r) => sum + r.failed, 0)
  return [
    `${runTime(first.fromS)} to ${runTime(last.toS)}: up to ${count(Math.max(...rows.map(r => r.users)))} users`,
    worst
      ? `${name} at worst ${timeText(worst.ms)} in the second ${runTime(worst.second + 1)}${atMost === undefined ? '' : `, limit ${timeText(atMost)}`}`
      : `${name} was not measured`,
    `up to ${rate(Math.max(...rows.map(r => r.perSecond)))} requests a second`,
    `${count(failed)} failed`,
  ].join('; ') + '.'
}
