/**
 * How sound a run is as it stands, while it loads: of what will weigh in its verdict, that which can be seen by now.
 */
import type { RunDocument } from '../run/document'
import { notRehearsed } from '../journey/rehearsable'
import { capacityBasisOf } from './suggestions'
import { NOT_STARTED_SHARE, offPlan } from './verdict'

export interface SeenSoFar {
  document: RunDocument
  /** Names of generators. */
  lost: readonly string[]
  absent: readonly string[]
  /** Not heard: nobody knows whether their users are there. */
  silent?: readonly string[]
  /** Over a limit now. */
  stressed: readonly string[]
  /** Users planned and present per run second until now. */
  planned: ArrayLike<number>
  present: ArrayLike<number>
  /** Passes started, and those that were due and were not. */
  passes: number
  notStarted: number
  /** A held rate cannot be reached. */
  notReached: boolean
}

/**
 * @returns reasons against it, a few words each, what has happened first, then what was so from the beginning; none: it
 * is sound so far
 */
export function reasonsSoFar({
  document,
  lost,
  absent,
  silent = [],
  stressed,
  planned,
  present,
  passes,
  notStarted,
  notReached,
}: SeenSoFar): string[] {
  if (document.claimed) return ['measured elsewhere, as claimed']
  const basis = capacityBasisOf(document)
  return [
    ...lost.map(n => `${n} lost`),
    ...absent.map(n => `${n} stayed away`),
    ...silent.map(n => `${n} not heard`),
    ...stressed.map(n => `${n} stressed`),
    ...offPlan({ planned, present }).map(f => `users off plan for ${f.seconds} s`),
    ...(notStarted > NOT_STARTED_SHARE * (passes + notStarted) ? [`${notStarted} passes not started`] : []),
    ...(notReached ? ['rate not reached'] : []),
    ...(basis === 'assumed' || basis === 'scaled'
      ? ['capacity assumed']
      : basis === 'stale'
        ? ['calibrated before a change']
        : []),
    ...(!document.plan.rehearse ? ['not rehearsed'] : notRehearsed(document).map(name => `${name} not rehearsed`)),
  ]
}
