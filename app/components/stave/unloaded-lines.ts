/** Which staffs have a line of what answers take with nobody else there, and where it is. */
import type { RunView } from '~~/api/views'
import type { Objective } from '~~/core/plan/document'
import { unloadedMs, unloadedOf } from '~~/core/result/unloaded'
import type { GridKey, StavePlace } from './stave-geometry'
import { keysOf } from './stave-staffs'

/**
 * @param objective that the house's staffs are about; undefined: all requests
 * @param there code of the location that is inked
 * @returns ms by staff; those without such a line are not in it
 */
export function unloadedLines(
  unloaded: RunView['unloaded'],
  document: RunView['document'],
  objective: Objective | undefined,
  there: string,
  places: readonly StavePlace[],
): Map<GridKey, number> {
  const steps = objective ? keysOf(objective, document) : []
  const lineOf = ({ key, entry }: StavePlace): number | undefined => {
    if (key === 'objective')
      return unloadedMs(unloaded, { steps, locations: objective?.location ? [objective.location] : [] })
    if (key === 'objectiveByLocation') return unloadedMs(unloaded, { steps, locations: [there] })
    return entry.own && unloadedOf(unloaded, entry.own)
  }
  return new Map(
    places.flatMap((place): [GridKey, number][] => {
      const ms = lineOf(place)
      return ms === undefined ? [] : [[place.key, ms]]
    }),
  )
}
