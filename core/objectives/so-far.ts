/** The answer as it stands, while a run loads: its objectives held against the last seconds. */
import { NO_FIGURES, type Figures } from '../merge/figures'
import type { Objective } from '../plan/document'
import { judge, type Answer } from './judge'

/** Figures of the last seconds, by step and location; locations without any are left out. */
export interface LastSeconds {
  fromS: number
  toS: number
  total: Figures
  steps: readonly { step: string, figures: Figures, byLocation: Readonly<Record<string, Figures>> }[]
  locations: readonly { code: string, figures: Figures }[]
}

/**
 * Objectives over the whole load wait for its end, and so do those of which nothing was sent in these seconds: they are neither met nor missed yet.
 *
 * @param users planned at their end @returns undefined when there is nothing to say yet
 */
export function answerSoFar(objectives: readonly Objective[], last: LastSeconds, users: number): Answer | undefined {
  const figuresOf = ({ step, location }: Objective): Figures => {
    const of = step === undefined ? undefined : last.steps.find(s => s.step === step)
    if (step !== undefined) return (location === undefined ? of?.figures : of?.byLocation[location]) ?? NO_FIGURES
    return (location === undefined ? last.total : last.locations.find(l => l.code === location)?.figures) ?? NO_FIGURES
  }
  const wasSent = ({ started, right, failed }: Figures) => started + right + failed > 0
  const begun = objectives.filter(o => o.window !== 'whole' && wasSent(figuresOf(o)))
  return begun.length === 0 ? undefined : judge(begun, [{ fromS: last.fromS, toS: last.toS, users }], true, (_, objective) => figuresOf(objective))
}
