/**
 * The series of a run: every (group, location, network, step) samples are filed under. Numbered the same way on every machine, so a frame
 * can name one by its number alone.
 */
import type { RunDocument } from './document'
import { resolveShares } from './shares'

export interface Series {
  /** Index of the group in the plan. */
  group: number
  /** Index of the location in the plan. */
  location: number
  /** Name of the network profile; `direct` adds nothing. */
  network: string
  /** Index of the step in the group's journey. */
  step: number
  /** Name of the step. */
  stepName: string
  journeyId: string
}

/** The network of a cell that adds nothing to the real path. */
export const DIRECT = 'direct'

export function seriesOf(document: RunDocument): Series[] {
  const { plan } = document
  return plan.groups.flatMap((group, g) => {
    const journey = document.journeys.find(j => j.id === group.journeyId)
    const { bp } = resolveShares(plan, group.letter)
    return plan.locations.flatMap((_, l) => !bp[l] || !journey ? [] : journey.round.map((step, s): Series =>
      ({ group: g, location: l, network: DIRECT, step: s, stepName: step.name, journeyId: journey.id })))
  })
}
