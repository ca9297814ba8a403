/** The values a template may name, and where each is found while a user runs. */
import { TemplateError, type Resolved } from './template'

/** What one user's templates see at this moment. */
export interface ValueScope {
  /** The row each feed has given, in the order of the journey's feeds. */
  readonly rows: readonly (readonly string[] | undefined)[]
  /** In the order of the journey's captures. */
  readonly captured: readonly (string | undefined)[]
  /** Number of the user within its group, and of the pass, from 1. */
  readonly userNumber: number
  readonly passNumber: number
  /** Next number of a sequence: never the same twice in a run. */
  next(sequence: string): number
  /** Numbers in [0, 1). */
  random(): number
  /** ms since 1970. */
  now(): number
}

export interface ValueNames {
  /** Feeds by the name templates use, with their columns. */
  feeds: readonly { as: string, columns: readonly string[] }[]
  captures: readonly string[]
  /** Values of the target; undefined where only the names matter. */
  target: Readonly<Record<string, string>> | undefined
  runId: string
}

const LETTERS = 'abcdefghijklmnopqrstuvwxyz'

/** `name` or `name(argument, argument)`. */
const CALL = /^([A-Za-z0-9_.-]+)(?:\(([^)]*)\))?$/

/** @throws TemplateError when nobody sets the value, with what would do instead */
// eslint-disable-next-line max-lines-per-function -- one form, read or written from its beginning to its end
export function resolveValue(name: string, { feeds, captures, target, runId }: ValueNames): Resolved<ValueScope> {
  const [, path, given] = CALL.exec(name.trim()) ?? []
  if (path === undefined) throw new TemplateError(`“${name}” is no name of a value`)
  const dot = path.indexOf('.')
  const head = dot < 0 ? path : path.slice(0, dot)
  const rest = dot < 0 ? '' : path.slice(dot + 1)
  const args = given === undefined ? [] : given.split(',').map(a => a.trim())
  const captured = captures.indexOf(path)
  if (captured >= 0) return { get: scope => scope.captured[captured] }
  const feed = feeds.findIndex(f => f.as === head)
  if (feed >= 0) {
    const column = feeds[feed]!.columns.indexOf(rest)
    if (column < 0)
      throw new TemplateError(
        `the feed ${head} has no column “${rest}”: it has ${feeds[feed]!.columns.join(', ') || 'none'}`,
      )
    return { get: scope => scope.rows[feed]?.[column] }
  }
  switch (head) {
    case 'target': {
      if (!target) return { fixed: '' }
      const value = Object.hasOwn(target, rest) ? target[rest] : undefined
      if (value === undefined)
        throw new TemplateError(`the target has no value “${rest}”: it has ${Object.keys(target).join(', ')}`)
      return { fixed: value }
    }
    case 'user':
      if (rest === 'number') return { get: scope => String(scope.userNumber) }
      break
    case 'pass':
      if (rest === 'number') return { get: scope => String(scope.passNumber) }
      break
    case 'run':
      if (rest === 'id') return { fixed: runId }
      break
    case 'sequence':
      return { get: scope => String(scope.next(rest)) }
    case 'now': {
      if (rest === 'iso') return { get: scope => new Date(scope.now()).toISOString() }
      if (rest === 'date') return { get: scope => new Date(scope.now()).toISOString().slice(0, 10) }
      if (rest === 'ms') return { get: scope => String(Math.floor(scope.now())) }
      if (rest === 's') return { get: scope => String(Math.floor(scope.now() / 1000)) }
      break
    }
    case 'random':
      return { get: randomValue(rest, args) }
  }
  const known = [
    ...captures,
    ...feeds.map(f => `${f.as}.${f.columns[0] ?? 'column'}`),
    'target.NAME',
    'user.number',
    'pass.number',
    'run.id',
    'sequence.NAME',
    'now.iso',
    'now.date',
    'now.ms',
    'now.s',
    'random.uuid',
    'random.integer(1, 100)',
  ]
  throw new TemplateError(`nobody sets “${name}”. There are ${known.join(', ')}`)
}

function randomValue(what: string, args: string[]): (scope: ValueScope) => string {
  const whole = (text: string | undefined, usual: number) => {
    const n = text === undefined ? usual : Number(text)
    if (!Number.isSafeInteger(n)) throw new TemplateError(`“${text}” in random.${what} is no whole number`)
    return n
  }
  const drawn = (alphabet: string, length: number) => (scope: ValueScope) => {
    let text = ''
    for (let i = 0; i < length; i++) text += alphabet[Math.floor(scope.random() * alphabet.length)]
    return text
  }
  const length = (usual: number) => {
    const n = whole(args[0], usual)
    if (n < 1 || n > 1000) throw new TemplateError(`random.${what} takes a length from 1 to 1000`)
    return n
  }
  switch (what) {
    case 'integer': {
      const [from, to] = [whole(args[0], 1), whole(args[1], 100)]
      if (to < from) throw new TemplateError(`random.integer(${from}, ${to}) goes from more to less`)
      return scope => String(from + Math.floor(scope.random() * (to - from + 1)))
    }
    case 'hex':
      return drawn('0123456789abcdef', length(16))
    case 'letters':
      return drawn(LETTERS, length(8))
    case 'digits':
      return drawn('0123456789', length(6))
    case 'choice': {
      if (args.length === 0 || args[0] === '')
        throw new TemplateError('random.choice(a, b, …) needs something to choose from')
      return scope => args[Math.floor(scope.random() * args.length)]!
    }
    // Version 4 of RFC 9562, from the run's own numbers so that a seed repeats it.
    case 'uuid':
      return (scope) => {
        const h = drawn('0123456789abcdef', 30)(scope)
        const variant = '89ab'[Math.floor(scope.random() * 4)]
        return `${h.slice(0, 8)}-${h.slice(8, 12)}-4${h.slice(12, 15)}-${variant}${h.slice(15, 18)}-${h.slice(18, 30)}`
      }
    default:
      throw new TemplateError(
        `there is no random.${what}: there are uuid, integer(from, to), hex(n), letters(n), digits(n), choice(a, b, …)`,
      )
  }
}
