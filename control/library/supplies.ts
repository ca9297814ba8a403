/** What each generator of a run gets besides the document: secrets, files, and its stretch of every feed. */
import { requestsOf, STAGES, stepsOf, type Journey } from '../../core/journey/journey'
import { cutRows, reservedRows, takersPerGenerator, usesOnce, type RowRange } from '../../core/run/feed-slices'
import type { Target } from '../../core/journey/target'
import type { RunDocument } from '../../core/run/document'
import type { FeedSupply, RowStretch, RunSupplies } from '../../protocol/messages'
import type { Library } from './library'

/** Content ids of everything a journey sends or needs, but the rows of its feeds. */
export function filesOf(journey: Journey): string[] {
  if (journey.kind === 'command') return [journey.kit]
  return STAGES.flatMap(s => stepsOf(journey, s))
    .flatMap(requestsOf)
    .flatMap(r => (r.body?.kind === 'multipart' ? r.body.parts.flatMap(p => ('file' in p ? [p.file] : [])) : []))
}

/** Users each generator carries, per location in the order of the plan; of runs of earlier releases, vCPU. */
export function capacitiesOf({ plan, fleet }: RunDocument): number[][] {
  return plan.locations.map(l =>
    fleet
      .filter(o => o.location === l.code)
      .flatMap(o => Array.from({ length: o.machines }, () => o.carries ?? o.type.vcpu)),
  )
}

/** @param generator its number among all, in the order of locations, then place */
export function suppliesForLoad(library: Library, document: RunDocument, generator: number): RunSupplies {
  const capacities = capacitiesOf(document)
  const generators = capacities.flat().length
  return supplies(
    library,
    document,
    generator,
    generators,
    (feed, rows) =>
      cutRows(rows, reservedRows(document, rows), takersPerGenerator(document, capacities, feed))[generator] ?? {
        from: 0,
        to: 0,
      },
  )
}

/**
 * A try takes the last row of what is dealt once, a rehearsal one before it: the load does not touch them. @param place
 * 0 for a try, from 1 on by location
 */
export function suppliesForTry(library: Library, document: RunDocument, place: number): RunSupplies {
  return supplies(library, document, 0, 1, (_, rows) => ({
    from: Math.max(0, rows - 1 - place),
    to: Math.max(0, rows - place),
  }))
}

/** Each secret's name for its value. */
const unsaid = ({ secretNames = [] }: Target) => Object.fromEntries(secretNames.map(name => [name, name]))

function supplies(
  library: Library,
  document: RunDocument,
  generator: number,
  generators: number,
  slice: (feed: string, rows: number) => RowRange,
): RunSupplies {
  const used = document.journeys.filter(j => document.plan.groups.some(g => g.journeyId === j.id))
  const uses = used.flatMap(j => j.feeds ?? [])
  return {
    // The built-in sink answers in the target's place: it is told no secret.
    secrets: document.calibration?.sink ? unsaid(document.target) : library.secretsOf(document.target),
    generator,
    generators,
    files: [...new Set(used.flatMap(filesOf))].flatMap((id) => {
      const file = library.store.file(id)
      return file ? [{ id, bytes: file.bytes }] : []
    }),
    feeds: [...new Set(uses.map(u => u.feed))].flatMap((id): FeedSupply[] => {
      const feed = library.feed(id)
      if (!feed) return []
      const stretch = ({ from, to }: RowRange): RowStretch => ({
        ...library.bytesOfRows(feed, from, to),
        rows: to - from,
      })
      return [
        {
          id,
          columns: feed.columns,
          file: feed.rowsFile,
          ...(uses.some(u => u.feed === id && u.deal !== 'once') ? { whole: stretch({ from: 0, to: feed.rows }) } : {}),
          ...(used.some(j => usesOnce(j, id)) ? { slice: stretch(slice(id, feed.rows)) } : {}),
        },
      ]
    }),
  }
}
