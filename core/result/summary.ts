/** The result of a run once it is over: answer, ledger, findings, soundness. Made from the merged run alone. */
import type { Ledger } from '../merge/ledger'
import type { CalibrationEvidence } from '../capacity/calibration'
import { figuresOf, type Figures } from '../merge/figures'
import { bySecond, type SecondFigures } from '../merge/second-figures'
import { SeriesSum, type SumOf } from '../merge/series-sum'
import { meanThinkMs, stepsOf } from '../journey/journey'
import { notRehearsed } from '../journey/rehearsable'
import { presentAtSecondEnds, staysOf } from '../load/stays'
import { isByPlan, NOT_STARTED, type NotStarted } from '../load/drive'
import { expectedConnects, notAchieved } from '../merge/network-figures'
import { EvidenceBook } from '../objectives/evidence'
import { TargetValues, type TargetLineValues } from '../objectives/target-values'
import type { LoadThere } from '../objectives/load-there'
import { judge, type Answer, type EvidenceFor } from '../objectives/judge'
import { isAbout, sumOf } from '../objectives/subject'
import { settledLevels, type JudgedLevel, type Window } from '../objectives/windows'
import { warmUpEndMs } from '../load/profile'
import type { Group, Objective } from '../plan/document'
import type { RunDocument } from '../run/document'
import { planInUsers } from '../plan/expected'
import { peakOfPlan } from '../plan/peak'
import { seriesOf, type Series } from '../run/series'
import { dealtIn } from '../run/slice'
import { runLengthMs } from '../plan/length'
import { capacityBasisOf, suggestionsOf, type CapacitySuggestion } from '../soundness/suggestions'
import { whyBroken } from './why'
import { brokenStretches, type BrokenStretch } from './stretches'
import type { HealthByGenerator } from '../soundness/health'
import { findingsOf, soundnessOf, stoodStillIn, type Finding, type Soundness } from '../soundness/verdict'

/** What was merged of a run, as far as its result needs it. */
export interface MergedRun {
  /** In the order of their numbers. */
  generators: readonly { name: string, location: number }[]
  /** Figures of every second, in order. */
  seconds: () => SecondFigures[]
  /** Sums per series number over run seconds `fromS` (inclusive) to `toS` (exclusive). */
  window: (fromS: number, toS: number) => Map<number, SeriesSum>
  /** The same without histograms; and each series into the sum it belongs to (undefined: nowhere). */
  counts: (fromS: number, toS: number) => Map<number, SeriesSum>
  addWindow: (fromS: number, toS: number, into: SumOf) => void
  /** @param goneAtSecond per generator number, when it went without a last word */
  ledger: (goneAtSecond: ReadonlyMap<number, number>) => Ledger
  health: HealthByGenerator
}

export interface RunSummary {
  answer: Answer
  /** Why it is no Yes, as far as the evidence says: generators, requests, places, failures. */
  why?: string
  /**
   * Stretches in which an objective was broken, judged or not; the longest ones where there were too many to keep. Runs
   * of earlier releases do not say.
   */
  broken?: BrokenStretch[]
  ledger: Ledger
  findings: Finding[]
  soundness: Soundness
  /** Everything, from the first second to the last. */
  whole: Figures
  lengthS: number
  peakUsers: number
  /** Groups whose passes arrive by a plan of their own. Runs of earlier releases have none. */
  arrivals?: ArrivalAccount[]
  /** Round trip of the real path per location as the roll call found it, ms. */
  pathMs?: Record<string, number>
  /** Of a calibration: what it saw and found. */
  calibration?: CalibrationEvidence
  /** What its own load says of the capacities it was sized by: offered, not applied. */
  suggests?: CapacitySuggestion[]
}

/** planned = started + not started, by reason; what is left over was lost with a generator. */
export interface ArrivalAccount {
  group: string
  planned: number
  started: number
  notStarted: Partial<Record<NotStarted, number>>
  unknown: number
}

/** What the merge itself cannot know. */
export interface RunFacts {
  /** Per generator number, the run second at which it was known to be gone. */
  goneAtSecond: [number: number, second: number][]
  /** Names of generators that went without a last word, and of those that never came for their peak. */
  lost: string[]
  absent: string[]
  clockUncertaintyMs: [name: string, ms: number][]
  rehearsed: boolean
  pathMs: Record<string, number>
  /** What the roll call noted of machines that took part. */
  rollCallNotes: { code: string, generator: string, sentence: string, means: string }[]
  /** Held rates that could not be reached, in words. */
  notReached: { group: number, sentence: string }[]
  /** Of the target's own figures, the lines that objectives are about. */
  target?: readonly TargetLineValues[]
  /** It was ended before its plan was over, at this run second. */
  ended?: { how: 'stopped' | 'aborted', atS: number }
}

/** Nothing but the merge is known, or it went without trouble. */
export const WITHOUT_TROUBLE: RunFacts = {
  goneAtSecond: [],
  lost: [],
  absent: [],
  clockUncertaintyMs: [],
  rehearsed: true,
  pathMs: {},
  rollCallNotes: [],
  notReached: [],
}

// eslint-disable-next-line max-lines-per-function -- a list, in the order in which it is told
export function summarise(merge: MergedRun, document: RunDocument, facts: RunFacts): RunSummary {
  const series = seriesOf(document)
  const seconds = merge.seconds()
  const measuredS = (seconds[seconds.length - 1]?.second ?? -1) + 1
  const everything = merge.window(0, measuredS)
  const inUsers = planInUsers(document.plan, document.journeys)
  const lengthS = Math.ceil(runLengthMs(document) / 1000)
  // A user who leaves because the run was ended is not missing from it.
  const { ended } = facts
  const judgedS = Math.min(measuredS, ended?.atS ?? measuredS, lengthS)
  const { levels, settled } = judgedLevels(document, everything, series, judgedS)
  const targetValues = new TargetValues(facts.target)
  const evidence = new EvidenceBook(document, series, bySecond(seconds, measuredS), targetValues)
  const answer = judge({
    objectives: document.plan.objectives,
    levels,
    settled,
    journeys: document.journeys,
    evidenceFor: (window, objective) => evidence.of(objective, window, merge.window(window.fromS, window.toS)),
    stoodStillIn: stillFor(merge, document),
    loadIn: window => evidence.load({}, window, merge.window(window.fromS, window.toS)),
    ...(judgedS > 0 ? { whole: { fromS: 0, toS: judgedS, users: peakOfPlan(inUsers) } } : {}),
    ...(ended && ended.atS < lengthS
      ? { ended: { how: ended.how, afterS: Math.max(0, ended.atS), ofS: lengthS } }
      : {}),
  })
  const ledger = merge.ledger(new Map(facts.goneAtSecond))
  const judged = sumOf(
    {},
    levels.length > 0 ? merge.window(levels[0]!.fromS, levels[levels.length - 1]!.toS) : everything,
    series,
    document.plan,
  )
  const byPlan = groupsByPlan(document)
  const arriving = document.plan.groups.flatMap((group, g) => (group.drive?.kind === 'arrivals' ? [g] : []))
  const planned = plannedPerSecond(
    document,
    byPlan.map(s => s.group),
  )
  const arrivals = arrivalAccounts(document, series, everything)
  const networks = expectedConnects(document, everything, facts.pathMs)
  const findings = findingsOf({
    health: merge.health,
    planned,
    present: seconds
      .slice(0, planned.length)
      .map(s => byPlan.reduce((sum, { g }) => sum + (s.usersByGroup[g] ?? 0), 0)),
    ledger,
    clockUncertaintyMs: new Map(facts.clockUncertaintyMs),
    arrivals,
    networksOff: notAchieved(networks),
    notReached: ratesNotReached(document, levels, facts.notReached, (group, level) =>
      evidence.load({ group }, level, merge.window(level.fromS, level.toS)),
    ),
    ...(arriving.length > 0 && seconds.some(s => s.passesByGroup)
      ? { pace: paceOf(arriving, evidence, seconds, measuredS) }
      : {}),
    rollCallNotes: facts.rollCallNotes,
    ...(document.claimed ? { claimedBy: document.claimed.senders.filter(s => s.how !== 'run').map(s => s.name) } : {}),
    ...(document.wentWith ? { wentWith: document.wentWith } : {}),
    lost: facts.lost,
    absent: facts.absent,
    capacityBasis: capacityBasisOf(document),
    rehearsed: facts.rehearsed,
    ...(document.plan.rehearse ? { notRehearsed: notRehearsed(document) } : {}),
    failureShare: figuresOf(judged).failureShare ?? 0,
  })
  const why = whyBroken({
    judgements: answer.judgements,
    findings,
    generators: document.claimed ? undefined : merge.generators.length,
    series,
    document,
    sumsIn: ({ fromS, toS }) => merge.window(fromS, toS),
  })
  const broken = brokenStretches({
    objectives: document.plan.objectives,
    levels,
    lengthS: judgedS,
    evidenceFor: evidenceOf(merge, document, series, bySecond(seconds, measuredS), targetValues),
    usersIn: usersPresent(seconds),
  })
  const suggests = suggestionsOf(document, merge.generators, merge.health, seconds)
  return {
    answer,
    ...(why ? { why } : {}),
    broken: longest(broken, MOST_STRETCHES),
    ledger,
    findings,
    soundness: soundnessOf(findings),
    whole: figuresOf(sumOf({}, everything, series, document.plan)),
    lengthS: measuredS,
    peakUsers: peakOfPlan(inUsers),
    ...(arrivals.length > 0 ? { arrivals } : {}),
    pathMs: facts.pathMs,
    ...(suggests.length > 0 ? { suggests } : {}),
  }
}

/** A generator elsewhere, or what the target measured itself, is not touched by one that stands still. */
function stillFor({ generators, health }: MergedRun, { plan }: RunDocument) {
  return (window: Window, { metric, location }: Objective): string[] => {
    if (metric === 'target') return []
    const there = generators.filter(g => location === undefined || plan.locations[g.location]?.code === location)
    const names = new Set(there.map(g => g.name))
    return stoodStillIn(health, window).filter(name => names.has(name))
  }
}

/** Stretches that are kept with a result. */
const MOST_STRETCHES = 500

/** The longest, in the order of time. */
function longest(stretches: readonly BrokenStretch[], most: number): BrokenStretch[] {
  if (stretches.length <= most) return [...stretches]
  const kept = new Set([...stretches].sort((a, b) => b.toS - b.fromS - (a.toS - a.fromS)).slice(0, most))
  return stretches.filter(s => kept.has(s))
}

/** Evidence of many short windows: only what an objective is about is summed. @param seconds by run second */
export function evidenceOf(
  merge: Pick<MergedRun, 'counts' | 'addWindow'>,
  document: RunDocument,
  series: readonly Series[],
  seconds: readonly (SecondFigures | undefined)[],
  targetValues?: TargetValues,
): EvidenceFor {
  const evidence = new EvidenceBook(document, series, seconds, targetValues)
  return (window, objective) => {
    const sum = new SeriesSum()
    const { fromS, toS } = window
    merge.addWindow(fromS, toS, n => (isAbout(objective, series[n]!, document.plan) ? sum : undefined))
    return evidence.ofSum(objective, window, sum, merge.counts(fromS, toS))
  }
}

/** @returns most users present in a window; undefined: nobody told of it */
export function usersPresent(seconds: readonly (SecondFigures | undefined)[]): (window: Window) => number | undefined {
  return ({ fromS, toS }) => {
    const present = seconds.flatMap(s =>
      s && s.second >= fromS && s.second < toS ? [s.usersByLocation.reduce((a, b) => a + b, 0)] : [])
    return present.length > 0 ? Math.max(...present) : undefined
  }
}

/** Groups whose users come and go by the plan: only theirs can be off it. */
export function groupsByPlan(document: Pick<RunDocument, 'plan'>): { group: Group, g: number }[] {
  return document.plan.groups.map((group, g) => ({ group, g })).filter(({ group }) => isByPlan(group))
}

/** Users planned at the end of each run second; expected, under drives that are not users. @param groups only these */
export function plannedPerSecond(
  document: Pick<RunDocument, 'plan' | 'journeys' | 'claimed'>,
  groups: readonly Group[] = document.plan.groups,
): Int32Array {
  const seconds = Math.ceil(runLengthMs(document) / 1000)
  // Nobody asked for what other programs did.
  if (document.claimed) return new Int32Array(0)
  const plan = planInUsers({ ...document.plan, groups: [...groups] }, document.journeys)
  return presentAtSecondEnds(
    plan.groups.flatMap(g => staysOf(g.profile)),
    seconds,
  )
}

/** What was due, what was started, and why the rest was not: the plan knows the first, the merged frames the others. */
function arrivalAccounts(
  document: RunDocument,
  series: readonly Series[],
  everything: ReadonlyMap<number, SeriesSum>,
): ArrivalAccount[] {
  return document.plan.groups.flatMap((group, g): ArrivalAccount[] => {
    if (group.drive?.kind !== 'arrivals') return []
    const whole = new SeriesSum()
    for (const [number, sum] of everything) if (series[number]!.group === g) whole.add(sum)
    const planned = dealtIn(group, document.plan.seed)
    const notStarted = whole.notStartedByReason()
    const unknown = planned - whole.passes - NOT_STARTED.reduce((sum, reason) => sum + (notStarted[reason] ?? 0), 0)
    // Passes that a generator gave up when it had to stop may have been started by those who took them over.
    const stopped = Math.max(0, (notStarted.stopped ?? 0) + Math.min(0, unknown))
    const { stopped: _, ...others } = notStarted
    return [
      {
        group: group.name,
        planned,
        started: whole.passes,
        notStarted: stopped > 0 ? { ...others, stopped } : others,
        unknown: Math.max(0, unknown),
      },
    ]
  })
}

/**
 * Held rates that fell short of their wish in what is judged, in words; why, where that is known. @param known those
 * found to be out of reach while it loaded
 */
function ratesNotReached(
  { plan }: RunDocument,
  levels: readonly JudgedLevel[],
  known: readonly { group: number, sentence: string }[],
  loadOf: (letter: string, level: JudgedLevel) => LoadThere,
): string[] {
  return plan.groups.flatMap((group, g): string[] => {
    if (group.drive?.kind !== 'requests') return []
    const told = known.filter(k => k.group === g).map(k => k.sentence)
    if (told.length > 0) return told
    const [worst] = levels
      .flatMap(level =>
        loadOf(group.letter, level)
          .shortfalls.filter(s => s.kind === 'requests')
          .map(s => ({ ...s, level })),
      )
      .sort((a, b) => a.there / a.asked - b.there / b.asked)
    return worst
      ? [
          `${group.name}: ${worst.asked.toFixed(1)} requests/s were wished from second ${worst.level.fromS} to ${worst.level.toS}, and ${worst.there.toFixed(1)} were sent.`,
        ]
      : []
  })
}

/** Passes due and begun in each second. */
function paceOf(
  arriving: readonly number[],
  evidence: EvidenceBook,
  seconds: readonly SecondFigures[],
  lengthS: number,
): { due: number[], begun: number[] } {
  const begun = new Array<number>(lengthS).fill(0)
  for (const s of seconds) begun[s.second] = arriving.reduce((sum, g) => sum + (s.passesByGroup?.[g] ?? 0), 0)
  return { due: begun.map((_, s) => evidence.dueIn(arriving, s)), begun }
}

/**
 * Settled holds, or the whole load after its warm-up where none settles. @param judgedS run second at which what is
 * judged ends
 */
export function judgedLevels(
  document: RunDocument,
  everything: ReadonlyMap<number, SeriesSum>,
  series: readonly Series[],
  judgedS: number,
): { levels: JudgedLevel[], settled: boolean } {
  const plan = planInUsers(document.plan, document.journeys)
  const used = document.journeys.filter(j => plan.groups.some(g => g.journeyId === j.id))
  const passMs = Math.max(
    0,
    ...used.map(j =>
      j.kind === 'command'
        ? 0
        : stepsOf(j, 'round').reduce((sum, step) => {
            const responseUs =
              sumOf({ journeyId: j.id, step: step.name }, everything, series, document.plan).timings.right.meanUs() ?? 0
            return sum + responseUs / 1000 + meanThinkMs(step.think)
          }, 0),
    ),
  )
  const settled = (document.claimed ? [] : settledLevels(plan, passMs))
    .map(l => ({ ...l, toS: Math.min(l.toS, judgedS) }))
    .filter(l => l.toS - l.fromS >= 5)
  if (settled.length > 0) return { levels: settled, settled: true }
  const fromS = Math.ceil(Math.max(0, ...plan.groups.map(g => warmUpEndMs(g.profile))) / 1000)
  const toS = Math.min(judgedS, Math.ceil(runLengthMs(document) / 1000))
  return { levels: toS > fromS ? [{ fromS, toS, users: peakOfPlan(plan) }] : [], settled: false }
}
