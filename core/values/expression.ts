/**
 * Regular expressions as users write them, on an engine whose time grows with the text alone (RE2's), so that none can
 * run for ever.
 */
import { RE2JS } from 're2js'
import { messageOf } from './thrown'

export class ExpressionError extends Error {
  override name = 'ExpressionError'
}

/** Longest expression, characters: an engine of linear time still grows with it. */
const MOST_CHARACTERS = 1000

export interface Expression {
  test(text: string): boolean
  /** The first group of the first match, or the whole match when there is no group. */
  first(text: string): string | undefined
  /** Groups of every match in turn. */
  all(text: string): Matched[]
}

export interface Matched {
  /** Of the groups without a name, the first one's; undefined: there is none. */
  value: string | undefined
  /** Of the groups with one. */
  named: Record<string, string>
  /** The expression has a group without a name. */
  hasValue: boolean
}

/** @throws ExpressionError when the pattern cannot be compiled */
export function compileExpression(pattern: string): Expression {
  if (pattern.length > MOST_CHARACTERS)
    throw new ExpressionError(`the expression has ${pattern.length} characters; at most ${MOST_CHARACTERS} are taken`)
  let compiled: RE2JS
  try {
    compiled = RE2JS.compile(pattern)
  }
  catch (error) {
    throw new ExpressionError(
      /\(\?[=!<]/.test(pattern) || /\\[1-9]/.test(pattern)
        ? 'looking ahead or behind and references to groups are not possible: they can take for ever'
        : messageOf(error).replace(/^error parsing regexp: /, ''),
    )
  }
  return {
    test: text => compiled.matcher(text).find(),
    first(text) {
      const matcher = compiled.matcher(text)
      if (!matcher.find()) return undefined
      return (matcher.groupCount() > 0 ? matcher.group(1) : matcher.group(0)) ?? undefined
    },
    all(text) {
      // The package is written in another language, and has no types for it.
      const names = Object.entries(compiled.namedGroups() as Record<string, number>)
      const groups = Array.from({ length: compiled.groupCount() }, (_, at) => at + 1)
      const own = groups.find(group => !names.some(([, at]) => at === group))
      const matcher = compiled.matcher(text)
      const found: Matched[] = []
      while (matcher.find())
        found.push({
          value: own === undefined ? undefined : (matcher.group(own) ?? undefined),
          named: Object.fromEntries(names.map(([name, at]) => [name, matcher.group(at) ?? ''])),
          hasValue: own !== undefined,
        })
      return found
    },
  }
}
