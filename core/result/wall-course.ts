/** The course of a run as it is drawn from afar: a few points, each for a stretch of it. */
import type { SecondFigures } from '../merge/second-figures'
import { timedObjective } from '../objectives/judge'
import { nameOf } from '../objectives/sentence'
import type { RunDocument } from '../run/document'

export interface WallCourse {
  /** Run seconds that each point stands for. */
  stretchS: number
  /** Users at the end of each stretch: planned of the whole run, present as far as it is known. */
  planned: number[]
  users: (number | null)[]
  /** Of what the times are. */
  name: string
  /** In the slowest second of each stretch, ms; null: nothing was measured there. */
  ms: (number | null)[]
  limitMs?: number
}

/** No more points than these: what is read from afar has no finer detail. */
const MOST_POINTS = 240

/** @returns run seconds in each stretch of a run of this length */
export function courseStretchS(lengthS: number): number {
  return Math.max(1, Math.ceil(lengthS / MOST_POINTS))
}

/**
 * @param seconds in order; each may stand for a stretch, not longer than those that are drawn
 * @param planned users planned at the end of each run second
 */
export function wallCourse(
  document: RunDocument,
  seconds: readonly SecondFigures[],
  planned: readonly number[],
  lengthS: number,
): WallCourse {
  const stretchS = courseStretchS(lengthS)
  const timed = timedObjective(document.plan.objectives)
  const last = seconds.at(-1)
  const points = last ? Math.floor(last.second / stretchS) + 1 : 0
  const users = new Array<number | null>(points).fill(null)
  const ms = new Array<number | null>(points).fill(null)
  for (const s of seconds) {
    const at = Math.floor(s.second / stretchS)
    users[at] = s.usersByLocation.reduce((sum, n) => sum + n, 0)
    const took = timed ? s.judged?.[timed.index]?.[0] : s.all[3]
    if (took !== null && took !== undefined) ms[at] = Math.max(ms[at] ?? 0, took)
  }
  return {
    stretchS,
    planned: Array.from(
      { length: Math.ceil(planned.length / stretchS) },
      (_, i) => planned[Math.min(planned.length, (i + 1) * stretchS) - 1]!,
    ),
    users,
    name: timed ? nameOf(timed.objective, document.journeys) : 'p95 of all requests',
    ms,
    ...(timed ? { limitMs: timed.objective.atMost } : {}),
  }
}
