/**
 * Objectives as sentences, read and written: `p95 of Enrol from OSA at most 1.8 s in holds`, `failures at most 0.5 %
 * over the whole load`, `throughput of Enrol on Enrol in modules by B at least 40/s in every 10 s`; of the target's own
 * figures: `target CPU at most 80 % in holds`, `target connections at least 95 % of users in every 10 s`.
 */
import type { Group, JudgedWindow, Metric, Objective, TargetMeasure } from '../plan/document'
import { printDuration, readDuration } from '../load/phrase'

export type ObjectiveReading = { ok: true, objective: Objective } | { ok: false, at: number, problem: string }

const METRIC_WORDS: Record<Metric, string> = {
  p50: 'p50',
  p90: 'p90',
  p95: 'p95',
  p99: 'p99',
  mean: 'mean',
  failures: 'failures',
  throughput: 'throughput',
  users: 'users held',
  target: 'target',
}
const METRIC = /^(p50|p90|p95|p99|mean|median|failures|throughput|users held|users|(?:highest |lowest )?target)\b/i

function metricCalled(word: string): Metric {
  if (word === 'median') return 'p50'
  if (word.startsWith('users')) return 'users'
  return word.endsWith('target') ? 'target' : (word as Metric)
}

const TIMES: readonly Metric[] = ['p50', 'p90', 'p95', 'p99', 'mean']

/** Whether a metric is a time. */
export function isTimed(metric: Metric): boolean {
  return TIMES.includes(metric)
}

/** Journeys by their ids: in sentences they have their names. */
export type JourneyNames = readonly { id: string, name: string }[]
const EXAMPLE = 'for example “p95 of Enrol at most 1.8 s in holds”'

export interface Readable {
  /** Steps, bundles and spans that can be judged; a name may hold any words. */
  names: Iterable<string>
  journeys: JourneyNames
  groups: readonly Pick<Group, 'letter' | 'name'>[]
  /** Location codes. */
  codes: readonly string[]
  /** Names of the target's own series. */
  series?: readonly string[]
}

// eslint-disable-next-line max-lines-per-function -- one form, read or written from its beginning to its end
export function readObjective(
  text: string,
  { names, journeys, groups, codes, series = [] }: Readable,
): ObjectiveReading {
  const fail = (at: number, problem: string): ObjectiveReading => ({ ok: false, at, problem })
  const begin = text.length - text.trimStart().length
  const metric = METRIC.exec(text.slice(begin))
  if (!metric) return fail(begin, `Begin with ${Object.values(METRIC_WORDS).join(', ')}, ${EXAMPLE}`)
  const word = metric[1]!.toLowerCase()
  const objective: Objective = { metric: metricCalled(word) }
  let at = begin + metric[0].length
  const rest = () => text.slice(at)
  // Longest name first: one may begin like another.
  const eatOne = <T>(of: readonly T[], word: (one: T) => string): T | undefined => {
    const found = [...of]
      .sort((a, b) => word(b).length - word(a).length)
      .find(one => rest().toLowerCase().startsWith(word(one).toLowerCase()))
    if (found !== undefined) at += word(found).length
    return found
  }
  const eat = (pattern: RegExp): RegExpExecArray | undefined => {
    const match = pattern.exec(rest())
    if (!match) return undefined
    at += match[0].length
    return match
  }
  if (objective.metric === 'target') {
    eat(/^\s+/)
    const name = eatOne(series, s => s)
    if (name === undefined)
      return fail(at, series.length > 0 ? `Write one of the target’s own series: ${series.join(', ')}` : 'The target has no series of its own')
    const [extreme] = /^highest|^lowest/.exec(word) ?? []
    const split = eat(/^\s+of\s+(.+?)(?=\s*(?:,\s*)?(?:at most|at least|under|over|[≤<≥>]))/i)?.[1]
    objective.target = {
      series: name,
      ...(split === undefined ? {} : { split }),
      ...(extreme === undefined ? {} : { extreme: extreme as 'highest' | 'lowest' }),
    }
  }
  else {
    if (eat(/^\s+with failures\b/i)) {
      if (!isTimed(objective.metric))
        return fail(at, `Only times can count failures as their time; ${METRIC_WORDS[objective.metric]} is none`)
      objective.withFailures = true
    }
    if (eat(/^\s+of\s+/i)) {
      const name = eatOne([...names], n => n)
      if (name === undefined) return fail(at, `Write a step or span after “of”: ${[...names].join(', ')}`)
      objective.step = name
    }
    if (eat(/^\s+on\s+/i)) {
      const journey = eatOne(journeys, j => j.name)
      if (journey === undefined) return fail(at, `Write a journey after “on”: ${journeys.map(j => j.name).join(', ')}`)
      objective.journeyId = journey.id
    }
    if (eat(/^\s+by\s+/i)) {
      const group = eatOne(groups, g => g.name) ?? eatOne(groups, g => g.letter)
      if (group === undefined) return fail(at, `Write a group after “by”: ${groups.map(g => g.letter).join(', ')}`)
      objective.group = group.letter
    }
    if (eat(/^\s+from\s+/i)) {
      const code = eat(/^[A-Z]{3}\b/i)?.[0].toUpperCase()
      if (code === undefined || !codes.includes(code))
        return fail(at - (code?.length ?? 0), `Write a location after “from”: ${codes.join(', ')}`)
      objective.location = code
    }
  }
  const comparison = eat(/^\s*(?:,\s*)?(at most|under|≤|<=|<|at least|over|≥|>=|>)\s*/i)
  if (!comparison) return fail(at, 'Write “at most” or “at least” and a value')
  const least = /least|over|≥|>/i.test(comparison[1]!)
  const value = eat(objective.metric === 'target' ? TARGET_VALUE : /^(\d+(?:[.,]\d+)?)\s*(ms|min|s\b|%|\/\s*s|users)?/i)
  if (!value) return fail(at, 'Write a value with its unit, such as 1.8 s, 0.5 % or 40/s')
  const read = inUnit(
    objective.metric,
    Number(value[1]!.replace(',', '.')),
    (value[2] ?? '').replace(/\s/g, '').toLowerCase(),
  )
  if (typeof read === 'string') return fail(at - value[0].length, read)
  if (objective.target && /of users$/.test(value[2] ?? '')) objective.target.ofUsers = true
  else if (objective.target && value[2]) objective.target.unit = value[2]
  if (least) objective.atLeast = read
  else objective.atMost = read
  const window = eat(
    /^\s*,?\s*(in (?:settled )?holds|over the whole load|in the whole load|whole run|in every\s+(.+?)|every\s+(.+?))\s*\.?\s*$/i,
  )
  if (window) {
    const stretch = window[2] ?? window[3]
    if (stretch !== undefined) {
      const ms = readDuration(stretch)
      if (ms === undefined || ms < 1000 || ms % 1000 !== 0)
        return fail(at - stretch.length, `“${stretch}” is no whole number of seconds, such as 10 s`)
      objective.window = { everyS: ms / 1000 }
    }
    else if (/whole/i.test(window[1]!)) objective.window = 'whole'
  }
  else if (rest().trim().replace('.', '') !== '')
    return fail(
      at,
      `“${rest().trim()}” is not understood: end with “in holds”, “over the whole load” or “in every 10 s”`,
    )
  return { ok: true, objective }
}

/** A limit of the target's own figures: in the unit of its series, or as a share of users. */
const TARGET_VALUE = /^(\d+(?:[.,]\d+)?)\s*(% of users\b|(?!(?:in|over|every|whole)\b)[^\s\d,][^\s,]{0,11})?/i

function inUnit(metric: Metric, n: number, unit: string): number | string {
  if (metric === 'target') return unit === '%ofusers' ? n / 100 : n
  if (metric === 'failures')
    return unit === '%'
      ? n <= 100
        ? n / 100
        : 'Failures cannot be more than 100 %'
      : 'Failures are a share: write it in %'
  if (metric === 'throughput') return unit === '/s' ? n : 'Throughput is right answers per second: write it in /s'
  if (metric === 'users') return unit === 'users' || unit === '' ? n : 'Write a number of users'
  if (unit === 'ms') return n
  if (unit === 's') return n * 1000
  return unit === 'min' ? n * 60_000 : 'A time needs its unit: ms, s or min'
}

/** “p95 of Enrol from OSA”, “p95 of Enrol on Enrol in modules by B”. */
export function nameOf(
  { metric, target, withFailures, step, journeyId, group, location }: Objective,
  journeys: JourneyNames,
): string {
  if (metric === 'target' && target)
    return `${target.extreme ? `${target.extreme} ` : ''}target ${target.series}${target.split === undefined ? '' : ` of ${target.split}`}`
  const journey = journeyId && (journeys.find(j => j.id === journeyId)?.name ?? journeyId)
  return `${METRIC_WORDS[metric]}${withFailures ? ' with failures' : ''}${step ? ` of ${step}` : ''}${journey ? ` on ${journey}` : ''}${group ? ` by ${group}` : ''}${location ? ` from ${location}` : ''}`
}

/** What an objective is about: “Enrol on Enrol in modules by B from OSA”, or “all requests”. */
export function sliceOf({ metric, withFailures: _, ...subject }: Objective, journeys: JourneyNames): string {
  return (
    nameOf({ metric, ...subject }, journeys)
      .slice(METRIC_WORDS[metric].length)
      .replace(/^ of /, '')
      .trim() || 'all requests'
  )
}

/** “at most 1.8 s in holds”. */
export function sayLimit(objective: Objective): string {
  const least = objective.atLeast !== undefined
  return `${least ? 'at least' : 'at most'} ${exactValue(objective, objective.atLeast ?? objective.atMost ?? 0)} ${sayWindow(objective.window)}`
}

function sayWindow(window: JudgedWindow | undefined): string {
  if (window === 'whole') return 'over the whole load'
  return typeof window === 'object' ? `in every ${printDuration(window.everyS * 1000)}` : 'in holds'
}

/** As one types it: nothing is rounded away. */
export function printObjective(objective: Objective, journeys: JourneyNames): string {
  return `${nameOf(objective, journeys)} ${sayLimit(objective)}`
}

/** “72 %”, “4”, “97 % of users”. */
export function sayTarget({ ofUsers, unit }: Pick<TargetMeasure, 'ofUsers' | 'unit'> = {}, value: number): string {
  if (ofUsers) return `${Number((value * 100).toPrecision(12))} % of users`
  return unit === undefined ? String(value) : unit.startsWith('/') ? `${value}${unit}` : `${value} ${unit}`
}

function exactValue({ metric, target }: Objective, value: number): string {
  const plain = (n: number) => String(Number(n.toPrecision(12)))
  if (metric === 'failures') return `${plain(value * 100)} %`
  if (metric === 'throughput') return `${plain(value)}/s`
  if (metric === 'users') return `${plain(value)} users`
  if (metric === 'target') return sayTarget(target, Number(value.toPrecision(12)))
  return value >= 1000 ? `${plain(value / 1000)} s` : `${plain(value)} ms`
}
