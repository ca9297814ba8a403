/**
 * Why an objective was broken, as far as the evidence says it: whether the generators were well, which request it was,
 * from where, and how answers failed. It names what it saw, and no cause it has not seen.
 */
import { FAILURE_KINDS, FAILURE_WORDS, OWN_FAULTS } from '../journey/failure-kinds'
import { figuresOf } from '../merge/figures'
import { SeriesSum } from '../merge/series-sum'
import { figureOf, firstBroken, sayValue, type Judgement } from '../objectives/judge'
import { isTimed } from '../objectives/sentence'
import { isAbout, sumOf } from '../objectives/subject'
import type { Window } from '../objectives/windows'
import type { Objective } from '../plan/document'
import type { RunDocument } from '../run/document'
import type { Series } from '../run/series'
import type { Finding } from '../soundness/verdict'

export interface BrokenRun {
  judgements: readonly Judgement[]
  findings: readonly Finding[]
  /** Number of generators that took part; undefined: how those who measured were is not known. */
  generators: number | undefined
  series: readonly Series[]
  document: Pick<RunDocument, 'plan' | 'journeys'>
  sumsIn: (window: Window) => ReadonlyMap<number, SeriesSum>
}

/** Findings that say that a generator's own state may be in the times. */
const OF_GENERATORS = ['generator-stressed', 'stood-still', 'cpu-stolen', 'generator-lost']
/** Fewer answers than this say nothing of a part, by its 95th percentile. */
const FEWEST_ANSWERS = 20
/** A place is told apart from the others where its value is this many times the next one's. */
const APART = 1.2
/** Failures below this share are not what broke a time. */
const FEW_FAILURES = 0.005

interface Part {
  name: string
  sum: SeriesSum
}

/** @returns sentences; undefined where nothing was broken */
export function whyBroken(run: BrokenRun): string | undefined {
  const broken = firstBroken(run.judgements)
  if (!broken) return undefined
  const sums = run.sumsIn(broken.level)
  const { objective } = broken
  const about = sumOf(objective, sums, run.series, run.document.plan)
  return [
    ofGenerators(run),
    ...(objective.metric === 'target'
      ? []
      : [
          objective.metric === 'failures' ? undefined : ofSteps(run, objective, sums),
          ofLocations(run, objective, sums),
          ofFailures(run, objective, sums, about),
        ]),
  ]
    .filter(Boolean)
    .join(' ') || undefined
}

function ofGenerators({ findings, generators }: BrokenRun): string | undefined {
  if (generators === undefined) return undefined
  const told = findings.filter(f => OF_GENERATORS.includes(f.code))
  const names = new Set(told.flatMap(f => f.generators ?? []))
  if (names.size === 0) return 'No generator was near a limit of its own.'
  const were = `${generators === 1 ? 'generator' : 'generators'} ${names.size === 1 ? 'was' : 'were'}`
  return `${names.size} of ${generators} ${were} not well for a while: part of this may be theirs.`
}

/** Which request: where an objective is about several, the one that is furthest. */
function ofSteps(
  { series, document }: BrokenRun,
  objective: Objective,
  sums: ReadonlyMap<number, SeriesSum>,
): string | undefined {
  const isOne = series.some(s => s.stepName === objective.step && s.kind === 'request')
  if (isOne || !isTimed(objective.metric) || objective.atMost === undefined) return undefined
  const { step: _, ...subject } = objective
  const parts = partsBy(series, sums, s => (isAbout(subject, s, document.plan) ? s.stepName : undefined))
  const [worst, next] = ranked(parts, objective)
  if (!worst || !next) return undefined
  return `Its slowest request was ${worst.name}, ${objective.metric} ${sayValue(objective, worst.value)}; then ${next.name}, ${sayValue(objective, next.value)}.`
}

/** From where: one place apart from the others, or all alike. */
function ofLocations(
  { series, document }: BrokenRun,
  objective: Objective,
  sums: ReadonlyMap<number, SeriesSum>,
): string | undefined {
  const { plan } = document
  if (objective.location !== undefined) return undefined
  const parts = partsBy(series, sums, s => (isAbout(objective, s, plan) ? plan.locations[s.location]!.code : undefined))
  const places = ranked(parts, objective)
  const [worst, next] = places
  const best = places.at(-1)
  if (!worst || !next || !best) return undefined
  return worst.value > next.value * APART
    ? `Worst from ${worst.name}: ${sayValue(objective, worst.value)}; from the others at most ${sayValue(objective, next.value)}.`
    : `From every location much the same: ${sayValue(objective, best.value)} to ${sayValue(objective, worst.value)}.`
}

/** How many failed, of which request, and how. */
function ofFailures(
  { series, document }: BrokenRun,
  objective: Objective,
  sums: ReadonlyMap<number, SeriesSum>,
  about: SeriesSum,
): string | undefined {
  const { failureShare } = figuresOf(about)
  if (failureShare === undefined || failureShare < FEW_FAILURES) return undefined
  const kinds = FAILURE_KINDS.map((kind, i) => ({ kind, n: about.failures[i]! }))
    .filter(k => !OWN_FAULTS.includes(k.kind))
    .sort((a, b) => b.n - a.n)
  const { plan } = document
  const steps = partsBy(series, sums, s => (isAbout(objective, s, plan) ? s.stepName : undefined))
    .map(p => ({ name: p.name, n: p.sum.failed - p.sum.ownFaults }))
    .sort((a, b) => b.n - a.n)
  const total = about.failed - about.ownFaults
  const of = steps[0] && steps.length > 1 ? `, ${part(steps[0].n, total)} of them at ${steps[0].name}` : ''
  return `${Number((failureShare * 100).toPrecision(2))} % failed${of}; ${part(kinds[0]!.n, total)}: ${FAILURE_WORDS[kinds[0]!.kind]}.`
}

function part(n: number, of: number): string {
  return n === of ? 'all' : `${Math.floor((n / of) * 100)} %`
}

function partsBy(
  series: readonly Series[],
  sums: ReadonlyMap<number, SeriesSum>,
  nameOf: (of: Series) => string | undefined,
): Part[] {
  const parts = new Map<string, SeriesSum>()
  for (const [number, sum] of sums) {
    const name = nameOf(series[number]!)
    if (name === undefined) continue
    const whole = parts.get(name) ?? new SeriesSum()
    whole.add(sum)
    parts.set(name, whole)
  }
  return [...parts].map(([name, sum]) => ({ name, sum }))
}

/** Those with answers enough, the worst first. */
function ranked(parts: readonly Part[], objective: Objective): { name: string, value: number }[] {
  return parts
    .flatMap(({ name, sum }) => {
      const value = sum.ended < FEWEST_ANSWERS ? undefined : figureOf(objective, figuresOf(sum))
      return value === undefined ? [] : [{ name, value }]
    })
    .sort((a, b) => b.value - a.value)
}
