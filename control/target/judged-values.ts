/** What was read of a target's own figures as a run is judged and compared by it. */
import { existsSync } from 'node:fs'
import type { TargetLineValues } from '../../core/objectives/target-values'
import type { RunDocument } from '../../core/run/document'
import { courseOf } from '../../core/target/course'
import { TargetFile } from '../store/target-file'

/** Names of the series that objectives are about. */
export function seriesJudged({ plan }: Pick<RunDocument, 'plan'>): Set<string> {
  return new Set(plan.objectives.flatMap(o => o.target?.series ?? []))
}

/** The lines that its objectives are about. @param startAt when its load began, ms since 1970 */
export function judgedValues(document: RunDocument, path: string, startAt: number): TargetLineValues[] {
  const judged = seriesJudged(document)
  return judged.size === 0 ? [] : targetLines(document, path, startAt, judged)
}

/** @param wanted names of series; left out: all */
export function targetLines(
  document: Pick<RunDocument, 'target'>,
  path: string,
  startAt: number,
  wanted?: ReadonlySet<string>,
): TargetLineValues[] {
  if (!existsSync(path)) return []
  const file = new TargetFile(path)
  try {
    const sources = document.target.sources ?? []
    const choices = new Map(sources.flatMap(s => s.series.map(c => [c.name, { ...c, everyS: s.everyS }])))
    return file.lines().flatMap(({ id, series, split }) => {
      const choice = choices.get(series)
      if (!choice || wanted?.has(series) === false) return []
      const { kind, everyS } = choice
      return [{ series, split, everyS, ...courseOf(file.values(id, startAt), kind, everyS) }]
    })
  }
  finally {
    file.close()
  }
}
