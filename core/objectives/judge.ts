/**
 * Holds objectives against figures: met or not, at which load, and the answer to the plan's question as a sentence. It
 * claims no more than the load that was there can carry.
 */
import { printDuration } from '../load/phrase'
import type { Figures } from '../merge/figures'
import type { Objective } from '../plan/document'
import type { Evidence } from './evidence'
import type { LoadThere, Shortfall } from './load-there'
import { isTimed, nameOf, sayTarget, type JourneyNames } from './sentence'
import type { JudgedLevel, Window } from './windows'

/** One objective at one level. */
export interface Judgement {
  objective: Objective
  level: JudgedLevel
  /** ms or share; undefined when nothing was measured. */
  measured: number | undefined
  held: boolean
  /**
   * What of the load its own users were to be was not there; left out: nothing. Runs of earlier releases do not say.
   */
  short?: Shortfall[]
  /** Somebody had waited so long at the end, past the limit, ms. */
  waitedMs?: number
}

/** Where evidence comes from: of a window, for an objective. */
export type EvidenceFor = (window: JudgedLevel, objective: Objective) => Evidence

export interface Answer {
  /**
   * `none`: there was nothing to judge. `short`: everything held, but the load that was asked for was not all there.
   */
  verdict: 'held' | 'short' | 'broken' | 'none'
  /** Without the plan's question: “No: p95 of Enrol 2.41 s at 240 users. Held up to 160 users.” */
  sentence: string
  judgements: Judgement[]
  /** Highest settled level at which everything held: the users who were there, and not those who were planned. */
  heldUpTo?: number
  /** Whether the judged stretches were settled holds (else the whole load). */
  settled: boolean
}

export interface JudgedRun {
  objectives: readonly Objective[]
  levels: readonly JudgedLevel[]
  settled: boolean
  evidenceFor: EvidenceFor
  /** Generators that stood still in a window, by name, of those that bore what an objective is about. */
  stoodStillIn?: (window: Window, objective: Objective) => readonly string[]
  /** The whole plan's load in a window; left out: as planned. */
  loadIn?: (window: Window) => LoadThere
  /** The whole load, for objectives that are judged over it. */
  whole?: JudgedLevel
  /** It was ended before its plan was over. */
  ended?: { how: 'stopped' | 'aborted', afterS: number, ofS: number }
  journeys?: JourneyNames
}

const AS_PLANNED: LoadThere = { asked: true, shortfalls: [], users: undefined }

// eslint-disable-next-line max-lines-per-function -- a list, in the order in which it is told
export function judge({
  objectives,
  levels,
  settled,
  evidenceFor,
  stoodStillIn = () => [],
  loadIn = () => AS_PLANNED,
  whole = levels[0],
  ended,
  journeys = [],
}: JudgedRun): Answer {
  const judgements = objectives.flatMap((objective) => {
    const { window } = objective
    const judged = window === 'whole' ? (whole ? [whole] : []) : levels
    return judged.map(level => judgedAt(objective, level, evidenceFor))
  })
  const stopped = ended
    ? `${ended.how === 'stopped' ? 'Stopped' : 'Aborted'} after ${printDuration(ended.afterS * 1000)} of ${printDuration(ended.ofS * 1000)}`
    : undefined
  if (judgements.length === 0) {
    const why = objectives.length === 0 ? 'No answer: the plan has no objective.' : 'No answer: nothing was measured.'
    return { verdict: 'none', sentence: stopped ? `${stopped}. ${why}` : why, judgements, settled }
  }
  const say = (of: Judgement) => sayMeasured(of, journeys)
  const where = settled ? '' : ', over the whole load'
  const there = (level: JudgedLevel) => usersThere(level, loadIn(level))
  const heldLevels = levels.filter(l => judgements.every(j => j.level !== l || j.held))
  const first = firstBroken(judgements)
  const lowestBroken = first?.level.users ?? Number.POSITIVE_INFINITY
  const heldUpTo = Math.max(0, ...heldLevels.filter(l => l.users < lowestBroken).map(there)) || undefined
  const shorts = judgements.filter(j => (j.short?.length ?? 0) > 0)
  if (!first) {
    const most = Math.max(...judgements.map(j => j.level.users))
    const atMost = judgements.filter(j => j.level.users === most).sort((a, b) => tightness(b) - tightness(a))
    const shortAtMost = atMost.find(j => shorts.includes(j))
    const worst = shortAtMost ?? atMost[0]!
    const held = { judgements, ...(heldUpTo === undefined ? {} : { heldUpTo }), settled }
    if (shortAtMost)
      return {
        verdict: 'short',
        sentence: after(stopped, `Held ${sayLoad(shortAtMost)} only: ${say(worst)}${where}.`),
        ...held,
      }
    const before = shorts[0] ? ` Below, it was ${sayLoad(shorts[0])} only.` : ''
    if (stopped)
      return {
        verdict: 'short',
        sentence: `${stopped}. Held until then: ${say(worst)}${atUsers(most)}${where}.${before}`,
        ...held,
      }
    return {
      verdict: shorts.length > 0 ? 'short' : 'held',
      sentence: `Yes: ${say(worst)}${atUsers(most)}${where}.${before}`,
      ...held,
    }
  }
  const rest = heldUpTo ? ` Held up to ${heldUpTo} users.` : ''
  const at = (first.short?.length ?? 0) > 0 ? ` ${sayLoad(first)}` : atUsers(lowestBroken)
  const still = sayStill(stoodStillIn(first.level, first.objective))
  return {
    verdict: 'broken',
    sentence: after(stopped, `No: ${say(first)}${at}${where}${still}.${rest}`),
    judgements,
    ...(heldUpTo ? { heldUpTo } : {}),
    settled,
  }
}

/** More generators than these are counted and not named. */
const MOST_NAMED = 2

/** What was measured while a generator stood still may be its own doing: the answer says so itself. */
function sayStill(names: readonly string[]): string {
  if (names.length === 0) return ''
  return `, while ${names.length > MOST_NAMED ? `${names.length} generators` : names.join(' and ')} stood still for a while`
}

/** Where nobody told how many there were, that is not said. */
const atUsers = (users: number) => (users > 0 ? ` at ${users} users` : '')

/** What was broken at the fewest users, and there the furthest: what an answer names. */
export function firstBroken(judgements: readonly Judgement[]): Judgement | undefined {
  return judgements
    .filter(j => !j.held)
    .sort((a, b) => a.level.users - b.level.users || tightness(b) - tightness(a))[0]
}

function after(stopped: string | undefined, sentence: string): string {
  return stopped ? `${stopped}. ${sentence}` : sentence
}

function judgedAt(objective: Objective, level: JudgedLevel, evidenceFor: EvidenceFor): Judgement {
  const { window } = objective
  const parts = typeof window === 'object' ? partsOf(level, window.everyS) : [level]
  const seen = parts.map(part => ({ part, evidence: evidenceFor(part, objective) }))
  const values = seen.map(({ part, evidence }) => valueOf(objective, evidence, part))
  // Of several stretches the worst counts; one in which nothing was measured, and nobody waited past the limit, says
  // nothing.
  const measured = values.reduce<number | undefined>(
    (worst, v) => (v === undefined || (worst !== undefined && isBetter(objective, v, worst)) ? worst : v),
    undefined,
  )
  const short = (parts.length > 1 ? evidenceFor(level, objective) : seen[0]!.evidence).load.shortfalls
  const waitedMs = Math.max(0, ...seen.map(s => s.evidence.waitedMs ?? 0))
  return {
    objective,
    level,
    measured,
    held: measured !== undefined && holds(objective, measured),
    ...(short.length > 0 ? { short } : {}),
    ...(waitedMs > 0 ? { waitedMs } : {}),
  }
}

/** Cuts a window into stretches. The rest that is shorter than a stretch is judged with the one before it. */
export function partsOf<W extends Window>(level: W, everyS: number): W[] {
  const parts: W[] = []
  for (let fromS = level.fromS; fromS + everyS <= level.toS; fromS += everyS)
    parts.push({ ...level, fromS, toS: fromS + everyS })
  const last = parts.at(-1)
  if (last) last.toS = level.toS
  return parts.length > 0 ? parts : [level]
}

/** Users of a level who were there: those planned, less the worst that was missing. */
function usersThere({ users }: JudgedLevel, { shortfalls }: LoadThere): number {
  return shortfalls.reduce(
    (there, s) =>
      s.kind === 'users' ? Math.max(0, there - (s.asked - s.there)) : Math.round((there * s.there) / s.asked),
    users,
  )
}

function isBetter({ atLeast }: Objective, a: number, b: number): boolean {
  return atLeast === undefined ? a <= b : a >= b
}

function holds({ atMost, atLeast }: Objective, measured: number): boolean {
  return atLeast === undefined ? measured <= (atMost ?? Number.POSITIVE_INFINITY) : measured >= atLeast
}

/**
 * An objective's value; undefined when nothing was measured. Rates and users are 0 where they were asked for and
 * nothing came.
 */
export function valueOf(
  objective: Objective,
  { figures, load, target }: Evidence,
  { fromS, toS, users }: JudgedLevel,
): number | undefined {
  switch (objective.metric) {
    case 'throughput':
      return load.asked || figures.started > 0 || figures.right > 0 ? figures.right / (toS - fromS) : undefined
    case 'users':
      return load.users ?? (figures.started > 0 ? users : undefined)
    case 'target': {
      const there = load.users ?? users
      return objective.target?.ofUsers && target !== undefined ? (there > 0 ? target / there : undefined) : target
    }
    default:
      return figureOf(objective, figures)
  }
}

/** A metric that is a figure by itself. */
export function figureOf({ metric }: Pick<Objective, 'metric'>, figures: Figures): number | undefined {
  switch (metric) {
    case 'p50':
      return figures.p50Ms
    case 'p90':
      return figures.p90Ms
    case 'p95':
      return figures.p95Ms
    case 'p99':
      return figures.p99Ms
    case 'mean':
      return figures.meanMs
    case 'failures':
      return figures.failureShare
    case 'throughput':
    case 'users':
    case 'target':
      return undefined
  }
}

/**
 * The first objective that limits a time, that of a step before others: the one screens draw. @returns its place among
 * them too
 */
export function timedObjective(
  objectives: readonly Objective[],
): { objective: Objective & { atMost: number }, index: number } | undefined {
  const limits = (o: Objective) => o.atMost !== undefined && isTimed(o.metric)
  const ofStep = objectives.findIndex(o => limits(o) && o.step !== undefined)
  const index = ofStep >= 0 ? ofStep : objectives.findIndex(limits)
  // Found by having that limit.
  return index < 0 ? undefined : { objective: objectives[index] as Objective & { atMost: number }, index }
}

/** “1.8 s”, “740 ms”, “0.5 %” or “97 % of users”. */
export function sayValue(objective: Objective, value: number): string {
  if (objective.metric === 'failures') return `${Number((value * 100).toPrecision(3))} %`
  if (objective.metric === 'throughput') return `${Number(value.toPrecision(3))}/s`
  if (objective.metric === 'users') return `${Math.round(value)} users`
  if (objective.metric === 'target') return sayTarget(objective.target, Number(value.toPrecision(3)))
  return value >= 1000
    ? `${(value / 1000).toFixed(2)} s`
    : `${value >= 100 ? value.toFixed(0) : value.toPrecision(3)} ms`
}

const RATE_WORDS = { arrivals: 'arrivals/s', requests: 'requests/s' } as const

/** “at 9 of 30 users”, “at 9 of 30 users (10 not heard of) for 44 of 60 s”, “at 4.1 of 12 arrivals/s”. */
export function sayShortfall({ kind, asked, there, shortS, ofS, unknown }: Shortfall): string {
  if (kind !== 'users')
    return `at ${Number(there.toPrecision(3))} of ${Number(asked.toPrecision(3))} ${RATE_WORDS[kind]}`
  return `at ${there} of ${asked} users${unknown ? ` (${unknown} not heard of)` : ''}${shortS !== undefined && ofS !== undefined && shortS < ofS ? ` for ${shortS} of ${ofS} s` : ''}`
}

function sayLoad({ short = [] }: Judgement): string {
  return short.map(sayShortfall).join(' and ')
}

function sayMeasured({ objective, measured, waitedMs }: Judgement, journeys: JourneyNames): string {
  const name = nameOf(objective, journeys)
  if (measured === undefined) return `${name} was not measured`
  const waited = waitedMs !== undefined ? ` (some had waited ${Math.round(waitedMs / 1000)} s for an answer)` : ''
  return `${name} ${waitedMs !== undefined && !holds(objective, measured) ? 'at least ' : ''}${sayValue(objective, measured)}${waited}`
}

/** How near to its limit, or how far past it; not measured counts as furthest. */
function tightness(judgement: Judgement): number {
  if (judgement.measured === undefined) return Number.POSITIVE_INFINITY
  const { atMost, atLeast } = judgement.objective
  if (atLeast !== undefined) return judgement.measured > 0 ? atLeast / judgement.measured : Number.POSITIVE_INFINITY
  return atMost !== undefined && atMost > 0 ? judgement.measured / atMost : judgement.measured
}
