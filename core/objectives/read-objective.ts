/** Reads an objective that is written as a sentence (sentence.ts), and says where it cannot go on. */
import { readDuration } from '../load/phrase'
import type { Group, JudgedWindow, Metric, Objective, TargetMeasure } from '../plan/document'
import { isTimed, METRIC_WORDS, type JourneyNames } from './sentence'

export type ObjectiveReading = { ok: true, objective: Objective } | { ok: false, at: number, problem: string }

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

const EXAMPLE = 'for example “p95 of Enrol at most 1.8 s in holds”'
const METRIC = /^(p50|p90|p95|p99|mean|median|failures|throughput|users held|users|(?:highest |lowest )?target)\b/i
const COMPARISON = /^\s*(?:,\s*)?(at most|under|≤|<=|<|at least|over|≥|>=|>)\s*/i
const VALUE = /^(\d+(?:[.,]\d+)?)\s*(ms|min|s\b|%|\/\s*s|users)?/i
/** A limit of the target's own figures: in the unit of its series, or as a share of users. */
const TARGET_VALUE = /^(\d+(?:[.,]\d+)?)\s*(% of users\b|(?!(?:in|over|every|whole)\b)[^\s\d,][^\s,]{0,11})?/i
const WINDOW
  = /^\s*,?\s*(in (?:settled )?holds|over the whole load|in the whole load|whole run|in every\s+(.+?)|every\s+(.+?))\s*\.?\s*$/i
/** What a split is called, up to its limit. */
const SPLIT = /^\s+of\s+(.+?)(?=\s*(?:,\s*)?(?:at most|at least|under|over|[≤<≥>]))/i

/** It goes on otherwise than a sentence can. */
class Stuck extends Error {
  constructor(
    readonly at: number,
    readonly problem: string,
  ) {
    super(problem)
  }
}

/** A sentence, read from its left to its right. */
class Words {
  constructor(
    private readonly text: string,
    public at: number,
  ) {}

  get rest(): string {
    return this.text.slice(this.at)
  }

  eat(pattern: RegExp): RegExpExecArray | undefined {
    const match = pattern.exec(this.rest)
    if (!match) return undefined
    this.at += match[0].length
    return match
  }

  /** One of several names, the longest first: one may begin like another. */
  eatOne<T>(of: readonly T[], name: (one: T) => string): T | undefined {
    const rest = this.rest.toLowerCase()
    const found = [...of]
      .sort((a, b) => name(b).length - name(a).length)
      .find(one => rest.startsWith(name(one).toLowerCase()))
    if (found !== undefined) this.at += name(found).length
    return found
  }

  /** @param back where it went wrong, before what was just read */
  stuck(problem: string, back = 0): Stuck {
    return new Stuck(this.at - back, problem)
  }
}

export function readObjective(text: string, readable: Readable): ObjectiveReading {
  const words = new Words(text, text.length - text.trimStart().length)
  try {
    return { ok: true, objective: sentenceIn(words, readable) }
  }
  catch (error) {
    if (!(error instanceof Stuck)) throw error
    return { ok: false, at: error.at, problem: error.problem }
  }
}

/** @throws Stuck */
function sentenceIn(words: Words, readable: Readable): Objective {
  const begun = words.eat(METRIC)?.[1]!.toLowerCase()
  if (begun === undefined) throw words.stuck(`Begin with ${Object.values(METRIC_WORDS).join(', ')}, ${EXAMPLE}`)
  const metric = metricCalled(begun)
  const target = metric === 'target' ? targetIn(words, begun, readable) : undefined
  const about = target ? {} : subjectIn(words, metric, readable)
  const { unit, ...limit } = limitIn(words, metric)
  const window = windowIn(words)
  return {
    metric,
    ...(target ? { target: { ...target, ...unit } } : {}),
    ...about,
    ...limit,
    ...(window === undefined ? {} : { window }),
  }
}

function metricCalled(word: string): Metric {
  if (word === 'median') return 'p50'
  if (word.startsWith('users')) return 'users'
  // The pattern lets no other words through.
  return word.endsWith('target') ? 'target' : (word as Metric)
}

function targetIn(words: Words, begun: string, { series = [] }: Readable): TargetMeasure {
  words.eat(/^\s+/)
  const name = words.eatOne(series, s => s)
  if (name === undefined)
    throw words.stuck(
      series.length > 0
        ? `Write one of the target’s own series: ${series.join(', ')}`
        : 'The target has no series of its own',
    )
  const split = words.eat(SPLIT)?.[1]
  return {
    series: name,
    ...(split === undefined ? {} : { split }),
    ...(begun.startsWith('highest') ? { extreme: 'highest' as const } : {}),
    ...(begun.startsWith('lowest') ? { extreme: 'lowest' as const } : {}),
  }
}

/** Which of the answers it is about. */
function subjectIn(words: Words, metric: Metric, { names, journeys, groups, codes }: Readable): Partial<Objective> {
  const found: Partial<Objective> = {}
  if (words.eat(/^\s+with failures\b/i)) {
    if (!isTimed(metric))
      throw words.stuck(`Only times can count failures as their time; ${METRIC_WORDS[metric]} is none`)
    found.withFailures = true
  }
  if (words.eat(/^\s+of\s+/i)) {
    const name = words.eatOne([...names], n => n)
    if (name === undefined) throw words.stuck(`Write a step or span after “of”: ${[...names].join(', ')}`)
    found.step = name
  }
  if (words.eat(/^\s+on\s+/i)) {
    const journey = words.eatOne(journeys, j => j.name)
    if (!journey) throw words.stuck(`Write a journey after “on”: ${journeys.map(j => j.name).join(', ')}`)
    found.journeyId = journey.id
  }
  if (words.eat(/^\s+by\s+/i)) {
    const group = words.eatOne(groups, g => g.name) ?? words.eatOne(groups, g => g.letter)
    if (!group) throw words.stuck(`Write a group after “by”: ${groups.map(g => g.letter).join(', ')}`)
    found.group = group.letter
  }
  if (words.eat(/^\s+from\s+/i)) {
    const code = words.eat(/^[A-Z]{3}\b/i)?.[0].toUpperCase()
    if (code === undefined || !codes.includes(code))
      throw words.stuck(`Write a location after “from”: ${codes.join(', ')}`, code?.length)
    found.location = code
  }
  return found
}

/** `unit`: what belongs to what the target tells of itself. */
function limitIn(words: Words, metric: Metric): Pick<Objective, 'atMost' | 'atLeast'> & { unit: Partial<TargetMeasure> } {
  const comparison = words.eat(COMPARISON)
  if (!comparison) throw words.stuck('Write “at most” or “at least” and a value')
  const isTarget = metric === 'target'
  const value = words.eat(isTarget ? TARGET_VALUE : VALUE)
  if (!value) throw words.stuck('Write a value with its unit, such as 1.8 s, 0.5 % or 40/s')
  const [whole, number, written = ''] = value
  const read = inUnit(metric, Number((number ?? '').replace(',', '.')), written.replace(/\s/g, '').toLowerCase())
  if (typeof read === 'string') throw words.stuck(read, whole.length)
  const ofUsers = / of users$/i.test(written)
  return {
    ...(/least|over|≥|>/i.test(comparison[1]!) ? { atLeast: read } : { atMost: read }),
    unit: ofUsers ? { ofUsers } : isTarget && written !== '' ? { unit: written } : {},
  }
}

/** @returns the limit in the metric's own unit, or what is wrong with how it is written */
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

/** What is left of the sentence. */
function windowIn(words: Words): JudgedWindow | undefined {
  const window = words.eat(WINDOW)
  const stretch = window?.[2] ?? window?.[3]
  if (stretch !== undefined) {
    const ms = readDuration(stretch)
    if (ms === undefined || ms < 1000 || ms % 1000 !== 0)
      throw words.stuck(`“${stretch}” is no whole number of seconds, such as 10 s`, stretch.length)
    return { everyS: ms / 1000 }
  }
  if (window) return /whole/i.test(window[1]!) ? 'whole' : undefined
  const rest = words.rest.trim()
  if (rest.replace('.', '') !== '')
    throw words.stuck(`“${rest}” is not understood: end with “in holds”, “over the whole load” or “in every 10 s”`)
  return undefined
}
