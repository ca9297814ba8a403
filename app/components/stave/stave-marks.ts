/** Moments of a run that have a meaning of their own: the cursor comes to rest on them, and says what they are. */
import type { RunView, TargetView } from '~~/api/views'
import type { BrokenStretch } from '~~/core/result/stretches'
import { nameOf } from '~~/core/objectives/sentence'

export interface StaveMark {
  /** Run time, whole seconds. */
  at: number
  says: string
}

/** Nearer than this, px, the cursor is drawn to a mark. */
export const DRAWN_PX = 5

/** Longer words of an event are cut. */
const MOST_WORDS = 90

/**
 * What happened while it loaded, edges of stretches in which an objective was broken, and of levels that were held, and
 * changes of the target's replicas.
 */
export function marksOf(
  { line: { startAt }, changes, document }: Pick<RunView, 'line' | 'changes' | 'document'>,
  broken: readonly BrokenStretch[],
  holds: readonly { fromS: number, toS: number }[],
  replicas: TargetView['steps'] = [],
): StaveMark[] {
  const happened =
    startAt === undefined
      ? []
      : changes
          .filter(c => c.at > startAt)
          .map(c => ({ at: (c.at - startAt) / 1000, says: short(c.reason) }))
  const edges = broken.flatMap(({ objective, fromS, toS }) => {
    const of = document.plan.objectives[objective]
    const name = of ? nameOf(of, document.journeys) : 'an objective'
    return [{ at: fromS, says: `${name}: broken from here` }, { at: toS, says: `${name}: no longer broken` }]
  })
  const levels = holds.flatMap(({ fromS, toS }) => [
    { at: fromS, says: 'held from here' },
    { at: toS, says: 'held until here' },
  ])
  const steps = replicas.map(({ atS, from, to, series, split }) => ({
    at: atS,
    says: `${from} → ${to} ${series}${split ? ` of ${split}` : ''}`,
  }))
  return [...happened, ...edges, ...levels, ...steps]
    .map(({ at, says }) => ({ at: Math.round(at), says }))
    .sort((a, b) => a.at - b.at)
}

function short(words: string): string {
  return words.length > MOST_WORDS ? `${words.slice(0, MOST_WORDS - 1)}…` : words
}

/** Marks nearest to a moment, all those of one second; none where none is near. @param withinS how near */
export function marksNear(marks: readonly StaveMark[], at: number, withinS: number): StaveMark[] {
  const farS = (mark: StaveMark) => Math.abs(mark.at - at)
  const near = marks.filter(m => farS(m) <= withinS)
  const nearestS = Math.min(...near.map(farS))
  const nearest = near.find(m => farS(m) === nearestS)
  return near.filter(m => m.at === nearest?.at)
}

/** The mark next to a moment. @param by 1: later, −1: earlier */
export function markBeside(marks: readonly StaveMark[], at: number, by: 1 | -1): number | undefined {
  return by > 0 ? marks.find(m => m.at > at)?.at : marks.findLast(m => m.at < at)?.at
}
