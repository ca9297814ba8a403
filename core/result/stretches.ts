/**
 * Stretches of a run in which an objective was broken: judged ones, in which it had to hold, and others (while the load
 * rises or falls), which are shown and judge nothing. A floor is a ceiling on the negative.
 */
import { partsOf, valueOf, type EvidenceFor } from '../objectives/judge'
import type { JudgedLevel, Window } from '../objectives/windows'
import type { Objective } from '../plan/document'

export interface BrokenStretch extends Window {
  /** Place of the objective in the plan. */
  objective: number
  /** Its furthest value past the limit, in its own unit, and the window that had it. */
  worst: number
  worstFromS: number
  worstToS: number
  /** Most users present meanwhile; undefined: not known. */
  users?: number
  judged: boolean
}

export interface StretchedRun {
  objectives: readonly Objective[]
  /** Settled holds, or what was judged instead. */
  levels: readonly JudgedLevel[]
  /** Run seconds in which the load was on, from 0. */
  lengthS: number
  evidenceFor: EvidenceFor
  /** Only windows that end after the first and by the second run second; left out: all. */
  ending?: { afterS: number, byS: number }
  /** Most users present in a window. */
  usersIn: (window: Window) => number | undefined
}

/**
 * An objective that is not judged in stretches of its own is held against the limit in stretches of this length, at
 * whole multiples of it, s.
 */
const WINDOW_S = 10

/** @returns in the order of time; what is broken in neighbouring windows is one stretch */
export function brokenStretches({
  objectives,
  levels,
  lengthS,
  evidenceFor,
  ending,
  usersIn,
}: StretchedRun): BrokenStretch[] {
  const found = objectives.flatMap((objective, index) => {
    const stretches: BrokenStretch[] = []
    for (const { judged, ...window } of windowsFor(objective, levels, lengthS)) {
      // While the load rises, fewer users and answers are as planned.
      if (ending && (window.toS <= ending.afterS || window.toS > ending.byS)) continue
      if (!judged && objective.atLeast !== undefined) continue
      const worst = pastLimit(objective, window, evidenceFor)
      if (worst === undefined) continue
      const { fromS, toS } = window
      const last = stretches.at(-1)
      if (last && last.judged === judged && last.toS === fromS) {
        last.toS = toS
        if (isWorse(objective, worst, last.worst)) Object.assign(last, { worst, worstFromS: fromS, worstToS: toS })
      }
      else stretches.push({ objective: index, fromS, toS, worst, worstFromS: fromS, worstToS: toS, judged })
    }
    return stretches
  })
  return found
    .map((stretch) => {
      const users = usersIn(stretch)
      return users === undefined ? stretch : { ...stretch, users }
    })
    .sort((a, b) => a.fromS - b.fromS || a.objective - b.objective)
}

/** All of the run, in windows; each lies wholly in a stretch that is judged or in none. */
function windowsFor(
  { window }: Objective,
  levels: readonly JudgedLevel[],
  lengthS: number,
): (JudgedLevel & { judged: boolean })[] {
  const segments: (JudgedLevel & { judged: boolean })[] = []
  let at = 0
  const between = (toS: number) => {
    if (toS > at) segments.push({ fromS: at, toS, users: 0, judged: false })
  }
  const users = Math.max(0, ...levels.map(l => l.users))
  for (const level of window === 'whole' ? [{ fromS: 0, toS: lengthS, users }] : levels) {
    between(level.fromS)
    segments.push({ ...level, judged: true })
    at = level.toS
  }
  between(lengthS)
  return segments.flatMap(of => (typeof window === 'object' ? partsOf(of, window.everyS) : multiplesIn(of)))
}

/** Cut at whole multiples of {@link WINDOW_S}: what is shorter than half of it goes with its neighbour. */
function multiplesIn<W extends Window>(window: W): W[] {
  const { fromS, toS } = window
  const least = WINDOW_S / 2
  const cuts = [fromS]
  for (let at = Math.ceil((fromS + least) / WINDOW_S) * WINDOW_S; at <= toS - least; at += WINDOW_S) cuts.push(at)
  return cuts.map((from, i) => ({ ...window, fromS: from, toS: cuts[i + 1] ?? toS }))
}

/** The objective's value in a window in which it was broken; undefined: it was not, or nothing was measured. */
function pastLimit(objective: Objective, window: JudgedLevel, evidenceFor: EvidenceFor): number | undefined {
  const value = valueOf(objective, evidenceFor(window, objective), window)
  return value !== undefined && isWorse(objective, value, limitOf(objective)) ? value : undefined
}

const limitOf = ({ atLeast, atMost }: Objective) => atLeast ?? atMost ?? Number.POSITIVE_INFINITY

function isWorse({ atLeast }: Objective, a: number, b: number): boolean {
  return atLeast === undefined ? a > b : a < b
}
