/**
 * The series of a run: every (group, location, network, measure of the journey) samples are filed under. Numbered the same way on every machine,
 * so a frame can name one by its number alone.
 */
import { measuresOf, type Measure } from '../journey/measures'
import type { RunDocument } from './document'
import { resolveShares } from './shares'

export interface Series {
  /** Index of the group in the plan. */
  group: number
  /** Index of the location in the plan. */
  location: number
  /** Name of the network profile; `direct` adds nothing. */
  network: string
  /** Index of the measure in the group's journey. */
  measure: number
  /** Name of the step, bundle, span or round. */
  stepName: string
  kind: Measure['kind']
  journeyId: string
}

/** The network of a cell that adds nothing to the real path. */
export const DIRECT = 'direct'

export function seriesOf(document: RunDocument): Series[] {
  const { plan } = document
  const measures = new Map(document.journeys.map(j => [j.id, measuresOf(j).filter(m => !document.requestsOnly || m.kind === 'request')]))
  return plan.groups.flatMap((group, g) => {
    const { bp } = resolveShares(plan, group.letter)
    return plan.locations.flatMap((_, l) => !bp[l] ? [] : (measures.get(group.journeyId) ?? []).map((measure, m): Series =>
      ({ group: g, location: l, network: DIRECT, measure: m, stepName: measure.name, kind: measure.kind, journeyId: group.journeyId })))
  })
}

/** Whether samples of a series are requests of their own: only those are added up over steps. */
export function isCounted(series: Pick<Series, 'kind'>): boolean {
  return series.kind === 'request'
}
