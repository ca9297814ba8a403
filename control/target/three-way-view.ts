/** The three-way account of a run, from what its target counted and from what was merged. */
import { existsSync } from 'node:fs'
import type { ThreeWayView } from '../../api/views'
import type { Value } from '../../core/target/recovery'
import { tellsRunsApart } from '../../core/target/source'
import { accountOf, othersFrom, type OtherCallers, type OurCount } from '../../core/result/three-way'
import type { RunChange } from '../../core/run/life'
import { TargetFile } from '../store/target-file'
import type { WatchedRun } from './watches'

/** Requests of the rehearsal are ours: what was counted while they went out says nothing of others, ms around it. */
const REHEARSAL_MARGIN_MS = 2000

/**
 * @param changes of the run @param isReading whether its target is still read @param ours requests by the name they
 * carry
 */
export async function threeWay(
  run: WatchedRun,
  path: string,
  changes: readonly RunChange[],
  isReading: boolean,
  ours: () => Promise<Record<string, OurCount>>,
): Promise<ThreeWayView> {
  const missing = (why: string): ThreeWayView => ({ isReading, missing: why, steps: [] })
  const [found] = (run.document.target.sources ?? []).flatMap(source =>
    source.series.filter(c => c.standsFor === 'calls' && c.kind === 'count' && c.by !== undefined).map(choice => ({ source, choice })))
  if (!found) return missing('No series of the target stands for calls of steps: a counter, split by the label that names them.')
  const { source, choice } = found
  if (run.startAt === undefined || !existsSync(path)) return missing('The target was not read beside this run.')
  const startAt = run.startAt
  const file = new TargetFile(path)
  try {
    const byStep = new Map(
      file.lines().filter(l => l.series === choice.name).map(l => [l.split, file.values(l.id, startAt)]),
    )
    if (byStep.size === 0) return missing(`${choice.name} has not been read once.`)
    const isMarked = tellsRunsApart(choice, source)
    const rehearsed = rehearsalOf(changes, startAt)
    const counts = await ours()
    return {
      isReading,
      series: choice.name,
      steps: Object.entries(counts).map(([step, count]) => {
        const values = byStep.get(step) ?? []
        const { during, others } = isMarked ? marked(values) : unmarked(values, rehearsed)
        return accountOf(step, count, during, others, !isReading)
      }),
    }
  }
  finally {
    file.close()
  }
}

interface Counted {
  during: number
  others: OtherCallers
}

/** Counted by the run's mark: all of it is ours. */
function marked(values: readonly Value[]): Counted {
  return { during: values[values.length - 1]?.value ?? 0, others: { how: 'mark', least: 0, most: 0 } }
}

/** What was counted since the load began, and what others do meanwhile, from before it. */
function unmarked(values: readonly Value[], rehearsed: readonly [number, number][]): Counted {
  const before = values.filter(v => v.atS <= 0)
  const last = values[values.length - 1]
  const atStart = before[before.length - 1]
  if (!last || !atStart) return { during: last?.value ?? 0, others: othersFrom(0, 0, 0) }
  let [calls, seconds] = [0, 0]
  before.slice(1).forEach((value, i) => {
    const from = before[i]!
    if (rehearsed.some(([a, b]) => from.atS < b && value.atS > a)) return
    calls += value.value - from.value
    seconds += value.atS - from.atS
  })
  return { during: last.value - atStart.value, others: othersFrom(calls, seconds, last.atS - atStart.atS) }
}

/** Run times between which our own rehearsal went out, s. */
function rehearsalOf(changes: readonly RunChange[], startAt: number): [number, number][] {
  const begun = changes.find(c => c.to === 'rehearsing' && c.from !== 'rehearsing')
  const over = changes.find(c => c.from === 'rehearsing' && c.to !== 'rehearsing')
  if (!begun) return []
  const at = (ms: number) => (ms - startAt) / 1000
  return [[at(begun.at - REHEARSAL_MARGIN_MS), at((over?.at ?? startAt) + REHEARSAL_MARGIN_MS)]]
}
