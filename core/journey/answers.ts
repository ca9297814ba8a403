/**
 * Holds an answer against what was expected of it, and takes values out of it. Everything is compiled once; bodies are
 * only read when something asks.
 */
import { compileExpression } from '../values/expression'
import { compilePath } from '../values/json-path'
import type { Capture, Expectation, RequestPart, TextRule } from './journey'

/** An answer as checks see it. */
export interface HttpAnswer {
  readonly status: number
  /** Length of the body, bytes. */
  readonly bytes: number
  readonly durationMs: number
  /** By lower-case name; several are joined by a comma, as RFC 9110 allows. */
  header(name: string): string | undefined
  /** Value of a cookie the answer sets. */
  cookie(name: string): string | undefined
  text(): string
  /** Parsed body; undefined when it is not JSON. */
  json(): unknown
}

export interface Check {
  /** In words: what results are filed under. */
  name: string
  kind: Expectation['kind']
  onlyCount: boolean
  holds(answer: HttpAnswer): boolean
  /** What was seen instead, in words. */
  saw(answer: HttpAnswer): string
}

export interface Catch {
  name: string
  otherwise: string | undefined
  /** @returns undefined when the answer has no such value */
  take(answer: HttpAnswer): string | undefined
}

/** What is expected when nothing is said about the status. */
const USUAL_STATUS: Expectation = { kind: 'status', allow: '200-399' }

/** All expectations of a request, the unsaid one about its status included. */
export function expectationsOf(part: Pick<RequestPart, 'expect'>): Expectation[] {
  const expect = part.expect ?? []
  return expect.some(e => e.kind === 'status') ? expect : [USUAL_STATUS, ...expect]
}

/**
 * Names of everything an answer can miss: expectations, then captures. The place in the list is its number in frames.
 */
export function missNamesOf(part: Pick<RequestPart, 'expect' | 'capture'>): string[] {
  return [
    ...expectationsOf(part).map(expectationName),
    ...(part.capture ?? []).filter(c => c.otherwise === undefined).map(c => `has ${c.name}`),
  ]
}

/** Whether checks and captures need the body as text. */
export function needsText(part: Pick<RequestPart, 'expect' | 'capture'>): boolean {
  return (
    (part.expect ?? []).some(e => e.kind === 'body' || e.kind === 'json') ||
    (part.capture ?? []).some(c => c.from.kind === 'json' || c.from.kind === 'between' || c.from.kind === 'expression')
  )
}

/** An expectation as a sentence without its subject. */
function expectationName(e: Expectation): string {
  switch (e.kind) {
    case 'status':
      return `status ${e.allow}`
    case 'header':
      return e.rule === 'present' ? `header ${e.name} is there` : `header ${e.name} ${e.rule} “${e.value ?? ''}”`
    case 'body':
      return `body ${e.rule} “${e.value}”`
    case 'json':
      return e.rule === 'exists' ? `${e.path} exists` : `${e.path} ${JSON_WORDS[e.rule]} ${e.value ?? ''}`
    case 'size':
      return [
        e.atLeast === undefined ? '' : `at least ${e.atLeast} bytes`,
        e.atMost === undefined ? '' : `at most ${e.atMost} bytes`,
      ]
        .filter(Boolean)
        .join(', ')
    case 'duration':
      return `within ${e.atMostMs} ms`
  }
}

const JSON_WORDS = {
  equals: 'is',
  differs: 'is not',
  atLeast: 'is at least',
  atMost: 'is at most',
  contains: 'contains',
  matches: 'matches',
} as const

/** @throws ExpressionError, PathError, StatusError */
export function compileCheck(e: Expectation): Check {
  return { name: expectationName(e), kind: e.kind, onlyCount: e.onlyCount ?? false, ...judgeOf(e) }
}

function judgeOf(e: Expectation): Pick<Check, 'holds' | 'saw'> {
  switch (e.kind) {
    case 'status': {
      const allowed = readStatuses(e.allow)
      return { holds: a => allowed.has(a.status), saw: a => `status ${a.status}` }
    }
    case 'header': {
      const rule =
        e.rule === 'present' ? (text: string | undefined) => text !== undefined : textRule(e.rule, e.value ?? '')
      const name = e.name.toLowerCase()
      return {
        holds: a => rule(a.header(name)),
        saw: (a) => {
          const text = a.header(name)
          return text === undefined ? `no header ${e.name}` : `“${shorten(text)}”`
        },
      }
    }
    case 'body': {
      const rule = textRule(e.rule, e.value)
      return { holds: a => rule(a.text()), saw: a => (a.text() === '' ? 'an empty body' : `“${shorten(a.text())}”`) }
    }
    case 'json': {
      const path = compilePath(e.path)
      const rule = jsonRule(e.rule, e.value ?? '')
      return {
        holds: a => rule(path.first(a.json())),
        saw: (a) => {
          if (a.json() === undefined) return 'no JSON'
          const found = path.first(a.json())
          return found === undefined ? 'nothing there' : shorten(JSON.stringify(found))
        },
      }
    }
    case 'size':
      return {
        holds: a => a.bytes >= (e.atLeast ?? 0) && a.bytes <= (e.atMost ?? Number.POSITIVE_INFINITY),
        saw: a => `${a.bytes} bytes`,
      }
    case 'duration':
      return { holds: a => a.durationMs <= e.atMostMs, saw: a => `${a.durationMs.toFixed(1)} ms` }
  }
}

function textRule(rule: TextRule, value: string): (text: string | undefined) => boolean {
  switch (rule) {
    case 'contains':
      return text => text !== undefined && text.includes(value)
    case 'lacks':
      return text => text === undefined || !text.includes(value)
    case 'equals':
      return text => text === value
    case 'matches': {
      const expression = compileExpression(value)
      return text => text !== undefined && expression.test(text)
    }
  }
}

function jsonRule(rule: Extract<Expectation, { kind: 'json' }>['rule'], value: string): (found: unknown) => boolean {
  const same = (found: unknown) =>
    typeof found === 'string'
      ? found === value || JSON.stringify(found) === value
      : found !== undefined && JSON.stringify(found) === normal(value)
  switch (rule) {
    case 'exists':
      return found => found !== undefined
    case 'equals':
      return same
    case 'differs':
      return found => !same(found)
    case 'atLeast':
      return found => typeof found === 'number' && found >= Number(value)
    case 'atMost':
      return found => typeof found === 'number' && found <= Number(value)
    case 'contains':
      return found => (Array.isArray(found) ? found.some(same) : typeof found === 'string' && found.includes(value))
    case 'matches': {
      const expression = compileExpression(value)
      return found => typeof found === 'string' && expression.test(found)
    }
  }
}

/** JSON as JSON.stringify would write it, so that `1.0` is 1; text that is no JSON stays. */
function normal(value: string): string {
  try {
    return JSON.stringify(JSON.parse(value))
  }
  catch {
    return value
  }
}

function shorten(text: string): string {
  return text.length > 120 ? `${text.slice(0, 119)}…` : text
}

export class StatusError extends Error {
  override name = 'StatusError'
}

/** Reads `200`, `200, 204`, `2xx`, `200-299` and mixtures. @throws StatusError */
export function readStatuses(allow: string): ReadonlySet<number> {
  const codes = new Set<number>()
  for (const part of allow.split(/[\s,]+/).filter(Boolean)) {
    const [, from, to = from] = /^([1-5]\d\d)(?:-([1-5]\d\d))?$/.exec(part) ?? []
    const [, hundred] = /^([1-5])xx$/i.exec(part) ?? []
    if (from === undefined && hundred === undefined)
      throw new StatusError(`“${part}” is no status: write 200, 2xx or 200-299`)
    const [first, last] =
      hundred === undefined ? [Number(from), Number(to)] : [Number(hundred) * 100, Number(hundred) * 100 + 99]
    if (last < first) throw new StatusError(`“${part}” goes from more to less`)
    for (let code = first; code <= last; code++) codes.add(code)
  }
  if (codes.size === 0) throw new StatusError('no status is given: write 200, 2xx or 200-299')
  return codes
}

/** @throws ExpressionError, PathError */
export function compileCatch({ name, from, otherwise }: Capture): Catch {
  return { name, otherwise, take: takerOf(from) }
}

/** What stands between two texts, the first time it does; up to the end where the second is empty. */
function between(text: string | undefined, left: string, right: string): string | undefined {
  const at = text?.indexOf(left) ?? -1
  if (text === undefined || at < 0) return undefined
  const begin = at + left.length
  const end = right === '' ? text.length : text.indexOf(right, begin)
  return end < 0 ? undefined : text.slice(begin, end)
}

function takerOf(from: Capture['from']): (answer: HttpAnswer) => string | undefined {
  switch (from.kind) {
    case 'json': {
      const path = compilePath(from.path)
      return (answer) => {
        const found = path.first(answer.json())
        return found === undefined ? undefined : typeof found === 'string' ? found : JSON.stringify(found)
      }
    }
    case 'header': {
      const name = from.name.toLowerCase()
      const { left, right = '' } = from
      return left === undefined ? answer => answer.header(name) : answer => between(answer.header(name), left, right)
    }
    case 'cookie':
      return answer => answer.cookie(from.name)
    case 'between':
      return answer => between(answer.text(), from.left, from.right)
    case 'expression': {
      const expression = compileExpression(from.pattern)
      return answer => expression.first(answer.text())
    }
  }
}
