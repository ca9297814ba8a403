/**
 * The series of a run: every (group, location, network, measure of the journey) samples are filed under. Numbered the
 * same way on every machine, so a frame can name one by its number alone.
 */
import { PLAIN } from '../client/client'
import { measuresOf, type Measure } from '../journey/measures'
import { DIRECT } from '../network/profile'
import type { Claimed, RunDocument } from './document'
import { clientsOf, mixOf, resolveShares } from '../plan/shares'
import { present } from '../values/present'

export interface Series {
  /** Index of the group in the plan. */
  group: number
  /** Index of the location in the plan. */
  location: number
  /** Id of the network profile; `direct` adds nothing. */
  network: string
  /** Id of the client; `plain` says nothing. */
  client: string
  /** Index of the measure in the group's journey. */
  measure: number
  /** Name of the step, bundle, span or round. */
  stepName: string
  kind: Measure['kind']
  journeyId: string
}

/** Per cell in the plan's order: for each of its networks and clients, all measures of the group's journey. */
export function seriesOf(document: RunDocument): Series[] {
  const { plan } = document
  if (document.claimed) return claimedSeries(document, document.claimed)
  const measures = new Map(
    document.journeys.map(j => [j.id, measuresOf(j).filter(m => !document.requestsOnly || m.kind === 'request')]),
  )
  return plan.groups.flatMap((group, g) => {
    const { bp } = resolveShares(plan, group.letter)
    return plan.locations.flatMap((location, l) =>
      !bp[l]
        ? []
        : mixOf(plan, group.letter, location.code).flatMap(({ network }) =>
            clientsOf(group).flatMap(({ client }) =>
              (measures.get(group.journeyId) ?? []).map((measure, m): Series => ({
                group: g,
                location: l,
                network,
                client,
                measure: m,
                stepName: measure.name,
                kind: measure.kind,
                journeyId: group.journeyId,
              })),
            ),
          ),
    )
  })
}

/** All that was told is one journey of one group: its steps came up one after the other, at one place or another. */
function claimedSeries({ journeys }: RunDocument, { series }: Claimed): Series[] {
  const journey = present(journeys[0], 'the journey of all that was told')
  const measures = measuresOf(journey)
  return series.map(([location, step]): Series => ({
    group: 0,
    location,
    network: DIRECT,
    client: PLAIN,
    measure: step,
    stepName: measures[step]!.name,
    kind: 'request',
    journeyId: journey.id,
  }))
}

/** Series number of the first measure of a cell's network and client; −1 where nobody is. */
export function firstSeriesOf(
  series: readonly Series[],
  group: number,
  location: number,
  network = DIRECT,
  client = PLAIN,
): number {
  return series.findIndex(
    s => s.group === group && s.location === location && s.network === network && s.client === client,
  )
}

/** Whether samples of a series are requests of their own: only those are added up over steps. */
export function isCounted(series: Pick<Series, 'kind'>): boolean {
  return series.kind === 'request'
}
