/**
 * Objectives of a plan over all its runs, as each was judged: what they were, and where the newest was to be expected.
 * Steps are the same without a limit.
 */
import type { Judgement } from '../objectives/judge'
import type { JourneyNames } from '../objectives/sentence'
import type { Objective } from '../plan/document'
import type { Soundness } from '../soundness/verdict'
import { valueAt, yardstickOf } from './difference'
import type { ComparedMetric } from './rows'
import { isRepeat, type SetUp } from './set-up'

/** A run of the plan that was judged. */
export interface TrendRun extends SetUp {
  id: number
  judgements: readonly Judgement[]
  soundness: Soundness
}

export interface TrendPoint {
  run: number
  /** ms, a share from 0 to 1, or answers per second. */
  measured: number
  /** Held, and at the load that was asked for. */
  held: boolean
  /** Unsound runs are shown, and count for nothing. */
  counts: boolean
}

export interface TrendLine {
  /** The objective as it is written, and the level it was judged at. */
  says: string
  users: number
  objective: Objective
  /** The oldest first. */
  points: TrendPoint[]
  /** Where the newest run was to be expected by repeats of it, 95 %; left out: there are too few. */
  expected?: { least: number, most: number }
}

/**
 * @param runs the oldest first
 * @param sayOf an objective, in words that tell it from others
 * @returns objectives of the newest run first, in its order, by rising users; then those that only older ones had
 */
export function trendOf(
  runs: readonly TrendRun[],
  sayOf: (objective: Objective, journeys: JourneyNames) => string,
): TrendLine[] {
  const lines = new Map<string, TrendLine>()
  const newest = runs.at(-1)
  for (const run of [...runs].reverse())
    for (const { objective, level, measured, held, short = [] } of run.judgements) {
      if (measured === undefined || objective.metric === 'users') continue
      const says = sayOf(objective, run.document.journeys)
      const key = `${level.users} ${says}`
      const line = lines.get(key) ?? { says, users: level.users, objective, points: [] }
      lines.set(key, line)
      // One level may be held twice: its first time stands for it.
      if (line.points.some(p => p.run === run.id)) continue
      line.points.push({ run: run.id, measured, held: held && short.length === 0, counts: run.soundness !== 'unsound' })
    }
  const repeats = new Set(newest ? runs.filter(r => r.id !== newest.id && isRepeat(newest, r)).map(r => r.id) : [])
  return [...lines.values()].map((line) => {
    line.points.reverse()
    const expected = newest && expectedOf(line, newest.id, repeats)
    return expected ? { ...line, expected } : line
  })
}

function expectedOf({ points, objective }: TrendLine, newest: number, repeats: ReadonlySet<number>) {
  // Objectives about anything else were left out above.
  const metric = objective.metric as ComparedMetric
  const own = points.find(p => p.run === newest)?.measured
  const before = points.filter(p => p.counts && repeats.has(p.run)).map(p => p.measured)
  const yardstick = yardstickOf(metric, before, own)
  if (!yardstick || own === undefined) return undefined
  return { least: valueAt(metric, own, yardstick.least), most: valueAt(metric, own, yardstick.most) }
}

export const pointOf = ({ points }: TrendLine, run: number): TrendPoint | undefined => points.find(p => p.run === run)

/** Whether a run lies where its repeats did not let one expect it. */
export function isOutside(line: TrendLine, run: number): boolean {
  const measured = pointOf(line, run)?.measured
  return measured !== undefined && line.expected !== undefined
    && (measured < line.expected.least || measured > line.expected.most)
}
