/** The result of a run once it is over: answer, ledger, findings, soundness. Made from the merged run alone. */
import type { Ledger } from '../../core/merge/ledger'
import { figuresOf, type Figures } from '../../core/merge/figures'
import { SeriesSum } from '../../core/merge/series-sum'
import { meanThinkMs, stepsOf } from '../../core/journey/journey'
import { presentAtSecondEnds, staysOf } from '../../core/load/stays'
import { judge, type Answer } from '../../core/objectives/judge'
import { settledLevels, type Level } from '../../core/objectives/windows'
import { warmUpEndMs } from '../../core/load/profile'
import type { RunDocument } from '../../core/plan/document'
import { peakOfPlan } from '../../core/plan/peak'
import { isCounted, seriesOf, type Series } from '../../core/plan/series'
import { runLengthMs } from '../../core/plan/slice'
import { findingsOf, soundnessOf, type Finding, type Soundness } from '../../core/soundness/verdict'
import type { RunMerge } from '../ingest/run-merge'

export interface RunSummary {
  answer: Answer
  ledger: Ledger
  findings: Finding[]
  soundness: Soundness
  /** Everything, from the first second to the last. */
  whole: Figures
  lengthS: number
  peakUsers: number
}

/** What the merge itself cannot know. */
export interface RunFacts {
  /** Per generator number, the run second at which it was known to be gone. */
  goneAtSecond: [number: number, second: number][]
  /** Names of generators that went without a last word. */
  lost: string[]
  clockUncertaintyMs: [name: string, ms: number][]
  rehearsed: boolean
}

export function summarise(merge: RunMerge, document: RunDocument, facts: RunFacts): RunSummary {
  const series = seriesOf(document)
  const seconds = merge.seconds()
  const measuredS = (seconds[seconds.length - 1]?.second ?? -1) + 1
  const everything = merge.window(0, measuredS)
  const { levels, settled } = judgedLevels(document, everything, series, measuredS)
  const answer = judge(document.plan.objectives, levels, settled, (window, step, location) => figuresOf(sumOfSeries(merge.window(window.fromS, window.toS), series, document, step, location)))
  const ledger = merge.ledger(new Map(facts.goneAtSecond))
  const judged = sumOfSeries(levels.length > 0 ? merge.window(levels[0]!.fromS, levels[levels.length - 1]!.toS) : everything, series, document)
  const planned = plannedPerSecond(document)
  const findings = findingsOf({
    health: merge.healthOf(),
    planned, present: seconds.slice(0, planned.length).map(s => s.usersByLocation.reduce((a, b) => a + b, 0)),
    ledger, clockUncertaintyMs: new Map(facts.clockUncertaintyMs), lost: facts.lost, capacityAssumed: true, rehearsed: facts.rehearsed,
    failureShare: judged.right + judged.failed > 0 ? judged.failed / (judged.right + judged.failed) : 0,
  })
  return { answer, ledger, findings, soundness: soundnessOf(findings), whole: figuresOf(sumOfSeries(everything, series, document)), lengthS: measuredS, peakUsers: peakOfPlan(document.plan) }
}

/** Users planned at the end of each run second. */
export function plannedPerSecond(document: Pick<RunDocument, 'plan'>): Int32Array {
  const seconds = Math.ceil(runLengthMs(document) / 1000)
  return presentAtSecondEnds(document.plan.groups.flatMap(g => staysOf(g.profile)), seconds)
}

/** The sum over the series of one step and one location, or all. */
export function sumOfSeries(sums: ReadonlyMap<number, SeriesSum>, series: readonly Series[], document: RunDocument, step?: string, location?: string): SeriesSum {
  const whole = new SeriesSum()
  for (const [number, sum] of sums) {
    const of = series[number]!
    // Spans and bundles time what their requests count already: they are added only when they are asked for by name.
    if (step === undefined ? !isCounted(of) : of.stepName !== step) continue
    if (location !== undefined && document.plan.locations[of.location]!.code !== location) continue
    whole.add(sum)
  }
  return whole
}

/** Settled holds, or the whole load after its warm-up where none settles. */
function judgedLevels(document: RunDocument, everything: ReadonlyMap<number, SeriesSum>, series: readonly Series[], measuredS: number): { levels: Level[], settled: boolean } {
  const { plan } = document
  const used = document.journeys.filter(j => plan.groups.some(g => g.journeyId === j.id))
  const passMs = Math.max(0, ...used.map(j => j.kind === 'command' ? 0 : stepsOf(j, 'round').reduce((sum, step) => {
    const responseUs = sumOfSeries(everything, series.map(s => s.journeyId === j.id ? s : { ...s, stepName: '' }), document, step.name).timings.right.meanUs() ?? 0
    return sum + responseUs / 1000 + meanThinkMs(step.think)
  }, 0)))
  const settled = settledLevels(plan, passMs).map(l => ({ ...l, toS: Math.min(l.toS, measuredS) })).filter(l => l.toS - l.fromS >= 5)
  if (settled.length > 0) return { levels: settled, settled: true }
  const fromS = Math.ceil(Math.max(0, ...plan.groups.map(g => warmUpEndMs(g.profile))) / 1000)
  const toS = Math.min(measuredS, Math.ceil(runLengthMs(document) / 1000))
  return { levels: toS > fromS ? [{ fromS, toS, users: peakOfPlan(plan) }] : [], settled: false }
}
