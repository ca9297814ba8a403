/** A run in a sentence and four figures: for anyone who looks at it from afar, or was sent a link. */
import { latestKnown, type SecondFigures } from '../merge/second-figures'
import type { Figures } from '../merge/figures'
import { figureOf, timedObjective, type Answer } from '../objectives/judge'
import { nameOf, sayLimit } from '../objectives/sentence'
import { saySoFar, type LastSeconds } from '../objectives/so-far'
import type { TargetValues } from '../objectives/target-values'
import type { RunDocument } from '../run/document'
import { ENDED, RUN_WORDS, UNDER_LOAD, type RunState } from '../run/life'
import { count, rate, share, timeText } from '../values/said-figures'
import { runTime } from '../values/said-times'
import type { RunSummary } from './summary'
import type { WallCourse } from './wall-course'

export interface WallFigure {
  name: string
  value: string
  /** What it is of. */
  under: string
  isBad?: boolean
}

export interface Wall {
  run: number
  /** Its own name, else its plan's. */
  name: string
  target: string
  question: string
  state: RunState
  isOver: boolean
  isUnderLoad: boolean
  /** When its load began, and when it was over, ms since 1970. */
  startAt?: number
  endedAt?: number
  lengthS: number
  /** Of a run that is over its answer, else the answer so far. */
  verdict?: Answer['verdict']
  says: string
  figures: WallFigure[]
  /** Left out: nothing has come back yet. */
  course?: WallCourse
}

/** What is known of a run that it is made of. */
export interface WallFacts {
  run: number
  name: string
  document: RunDocument
  state: RunState
  startAt?: number
  endedAt?: number
  /** The answer, or why there is none. */
  sentence: string
  peakUsers: number
  lengthS: number
  /** Users planned at the end of each run second. */
  planned: readonly number[]
  summary?: RunSummary
  /** Its last seconds one by one. */
  seconds: readonly (SecondFigures | undefined)[]
  /** The last seconds together, and all since the beginning. */
  recent?: LastSeconds & { total: Figures }
  soFar?: Figures
  target: TargetValues
  course?: WallCourse
}

export function wallOf(facts: WallFacts): Wall {
  const { run, name, document, state, startAt, endedAt, lengthS, sentence, recent, summary } = facts
  const isOver = ENDED.includes(state)
  const said = isOver || !recent ? undefined : saySoFar(document, recent, facts.planned, facts.target)
  const verdict = isOver ? summary?.answer.verdict : said?.verdict
  return {
    run,
    name,
    target: document.target.name,
    question: document.plan.question,
    state,
    isOver,
    isUnderLoad: UNDER_LOAD.includes(state),
    ...(startAt === undefined ? {} : { startAt }),
    ...(endedAt === undefined ? {} : { endedAt }),
    lengthS: isOver ? (summary?.lengthS ?? lengthS) : lengthS,
    ...(verdict === undefined ? {} : { verdict }),
    says: isOver ? sentence : said ? `${said.word} ${said.sentence}.` : `${RUN_WORDS[state]}…`,
    figures: isOver ? figuresAfter(facts) : figuresNow(facts),
    ...(facts.course ? { course: facts.course } : {}),
  }
}

function figuresAfter({ document, peakUsers, summary, lengthS }: WallFacts): WallFigure[] {
  const whole = summary?.whole
  return [
    { name: 'Users', value: count(peakUsers), under: document.claimed ? 'at most, as told' : 'planned at the peak' },
    objectiveAfter(document, summary),
    failedOf(whole),
    { name: 'Requests', value: count(whole?.started ?? 0), under: `in ${runTime(summary?.lengthS ?? lengthS)}` },
  ]
}

function figuresNow({ document, seconds, planned, recent, soFar }: WallFacts): WallFigure[] {
  const latest = latestKnown(seconds)
  const timed = timedObjective(document.plan.objectives)
  const evidence = timed && recent?.objectives[timed.index]
  const ms = timed ? evidence && figureOf(timed.objective, evidence.figures) : recent?.total.p95Ms
  return [
    {
      name: 'Users',
      value: count(latest?.usersByLocation.reduce((a, b) => a + b, 0) ?? 0),
      under: document.claimed ? 'present, as told' : `present of ${count(planned[latest?.second ?? 0] ?? 0)} planned`,
    },
    timed ? timedFigure(timed.objective, document, ms, 'last 10 s') : allTimes(ms, 'last 10 s'),
    failedOf(soFar),
    { name: 'Sent', value: `${rate(latest?.started ?? 0)} /s`, under: 'last settled second' },
  ]
}

/** The objective that is drawn elsewhere, too, at its worst judged level. */
function objectiveAfter(document: RunDocument, summary: RunSummary | undefined): WallFigure {
  const timed = timedObjective(document.plan.objectives)
  if (!timed) return allTimes(summary?.whole.p95Ms, 'the whole run')
  const { objective } = timed
  const measured = summary?.answer.judgements
    .filter(j => j.objective.step === objective.step && j.objective.metric === objective.metric)
    .flatMap(j => (j.measured === undefined ? [] : [j.measured])) ?? []
  return timedFigure(objective, document, measured.length > 0 ? Math.max(...measured) : undefined, 'the worst level')
}

function timedFigure(
  objective: NonNullable<ReturnType<typeof timedObjective>>['objective'],
  { journeys }: RunDocument,
  ms: number | undefined,
  of: string,
): WallFigure {
  return {
    name: nameOf(objective, journeys),
    value: timeText(ms),
    under: `${sayLimit(objective)}, ${of}`,
    ...(ms !== undefined && ms > objective.atMost ? { isBad: true } : {}),
  }
}

const allTimes = (ms: number | undefined, under: string): WallFigure =>
  ({ name: 'p95 of all requests', value: timeText(ms), under })

function failedOf(figures: Figures | undefined): WallFigure {
  const { right = 0, failed = 0 } = figures ?? {}
  const ended = right + failed
  return {
    name: 'Failed',
    value: share(ended > 0 ? failed / ended : undefined),
    under: `${count(failed)} of ${count(ended)}`,
    ...(failed > 0 ? { isBad: true } : {}),
  }
}
