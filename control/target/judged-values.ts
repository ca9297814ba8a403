/** Of what was read of a target's own figures, the lines that a run's objectives are about. */
import { existsSync } from 'node:fs'
import type { TargetLineValues } from '../../core/objectives/target-values'
import type { RunDocument } from '../../core/run/document'
import { courseOf } from '../../core/target/course'
import { TargetFile } from '../store/target-file'

/** Names of the series that objectives are about. */
export function seriesJudged({ plan }: Pick<RunDocument, 'plan'>): Set<string> {
  return new Set(plan.objectives.flatMap(o => o.target?.series ?? []))
}

/** @param startAt when its load began, ms since 1970 */
export function judgedValues(document: RunDocument, path: string, startAt: number): TargetLineValues[] {
  const judged = seriesJudged(document)
  if (judged.size === 0 || !existsSync(path)) return []
  const file = new TargetFile(path)
  try {
    const sources = document.target.sources ?? []
    const choices = new Map(sources.flatMap(s => s.series.map(c => [c.name, { ...c, everyS: s.everyS }])))
    return file.lines().flatMap(({ id, series, split }) => {
      const choice = choices.get(series)
      if (!choice || !judged.has(series)) return []
      const { kind, everyS } = choice
      return [{ series, split, everyS, ...courseOf(file.values(id, startAt), kind, everyS) }]
    })
  }
  finally {
    file.close()
  }
}
