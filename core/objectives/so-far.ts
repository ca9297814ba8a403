/** The answer as it stands, while a run loads: its objectives held against the last seconds. */
import type { Objective } from '../plan/document'
import type { Evidence } from './evidence'
import type { LoadThere } from './load-there'
import { judge, type Answer } from './judge'
import type { JourneyNames } from './sentence'
import type { TargetValues } from './target-values'

/** The last seconds: per objective of the plan its evidence, and the whole plan's load. */
export interface LastSeconds {
  fromS: number
  toS: number
  objectives: readonly Evidence[]
  load: LoadThere
}

/**
 * Objectives over the whole load wait for its end, and so do those of which nothing was sent in these seconds and
 * nobody waits: they are neither met nor missed yet.
 *
 * @param users planned at their end @returns undefined when there is nothing to say yet
 */
export function answerSoFar(
  objectives: readonly Objective[],
  { fromS, toS, objectives: evidence, load }: LastSeconds,
  users: number,
  journeys: JourneyNames,
): Answer | undefined {
  const hasBegun = ({ metric }: Objective, { figures: { started, right, failed }, waitedMs, target }: Evidence) =>
    metric === 'target' ? target !== undefined : started + right + failed > 0 || waitedMs !== undefined
  const begun = objectives.flatMap((o, i) => (o.window !== 'whole' && evidence[i] && hasBegun(o, evidence[i]) ? [o] : []))
  if (begun.length === 0) return undefined
  return judge({
    objectives: begun,
    levels: [{ fromS, toS, users }],
    settled: true,
    journeys,
    loadIn: () => load,
    evidenceFor: (_, objective) => evidence[objectives.indexOf(objective)]!,
  })
}

const SO_FAR_WORDS: Record<Answer['verdict'], string> = {
  held: 'So far, yes.',
  short: 'So far, but not at the load that was asked for.',
  broken: 'Not so far.',
  none: '',
}

/** The answer so far as it is said: a word, and what follows it without a stop. */
export interface SaidSoFar {
  verdict: Answer['verdict']
  word: string
  sentence: string
}

/** @param planned users at the end of each run second @param target what it told of itself */
export function saySoFar(
  { plan: { objectives }, journeys }: { plan: { objectives: readonly Objective[] }, journeys: JourneyNames },
  recent: LastSeconds,
  planned: readonly number[],
  target: TargetValues,
): SaidSoFar | undefined {
  const evidence = recent.objectives.map((of, i) => {
    const told = target.of(objectives[i]!, recent)
    return told === undefined ? of : { ...of, target: told }
  })
  const answer = answerSoFar(objectives, { ...recent, objectives: evidence }, planned[recent.toS - 1] ?? 0, journeys)
  return answer && {
    verdict: answer.verdict,
    word: SO_FAR_WORDS[answer.verdict],
    sentence: answer.sentence.replace(/^(Yes|No): /, '').replace(/\.$/, ''),
  }
}
