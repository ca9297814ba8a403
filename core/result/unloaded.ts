/**
 * What steps took while nobody else was there: one user, once from each location, in the rehearsal, with no network
 * added. A line a loaded run is looked at beside: it is one answer from each location, no distribution.
 */
import { stepKey } from '../objectives/subject'
import type { Staff } from './staff'

export interface UnloadedTime {
  location: string
  journeyId: string
  step: string
  /** Response time of the right answer. */
  ms: number
}

/**
 * The mean over locations of one step.
 *
 * @param steps keys of the steps that count; left out or empty: all
 * @param locations codes of the locations that count; left out or empty: all
 * @returns ms; undefined: it was not rehearsed, or these are several steps, which have no time in common
 */
export function unloadedMs(
  times: readonly UnloadedTime[],
  { steps = [], locations = [] }: { steps?: readonly string[], locations?: readonly string[] },
): number | undefined {
  const counts = times.filter(
    t =>
      (steps.length === 0 || steps.includes(stepKey(t.journeyId, t.step))) &&
      (locations.length === 0 || locations.includes(t.location)),
  )
  const [first] = counts
  if (!first || steps.length > 1) return undefined
  if (counts.some(t => t.step !== first.step || t.journeyId !== first.journeyId)) return undefined
  return counts.reduce((sum, t) => sum + t.ms, 0) / counts.length
}

/** The line of a staff; undefined: it shows no response times, or several steps. */
export function unloadedOf(times: readonly UnloadedTime[], { measure, only = {} }: Staff): number | undefined {
  if (measure !== 'answered') return undefined
  // Of a journey alone: where it has one step.
  const journeys = only.journey ?? []
  const there = times.filter(t => journeys.length === 0 || journeys.includes(t.journeyId))
  return unloadedMs(there, { steps: only.step ?? [], locations: only.location ?? [] })
}
