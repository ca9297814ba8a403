/**
 * Texts with values in them, `{{name}}`, in Mustache's syntax (mustache(5)), read by its own parser and compiled once:
 * rendering is joining. Only values are allowed, no sections: a journey has no logic in its texts.
 */
import Mustache from 'mustache'
import { messageOf } from './thrown'

/** A text that is no template, or names a value nobody sets. */
export class TemplateError extends Error {
  override name = 'TemplateError'
}

/** Where a value is found at run time; undefined when there is none (yet). */
export type Getter<Scope> = (scope: Scope) => string | undefined

/** A value known beforehand, or where to find it. */
export type Resolved<Scope> = { fixed: string } | { get: Getter<Scope> }

export interface Template<Scope> {
  /** The whole text, when nothing in it depends on the moment. */
  readonly fixed: string | undefined
  /** What stands before the first value that depends on the moment. */
  readonly lead: string
  /** @returns undefined when a value is missing; {@link missing} then names it */
  render(scope: Scope): string | undefined
  missing(scope: Scope): string | undefined
}

/** Makes a value safe for the place it is put in. */
export type Escape = (value: string) => string

export const ESCAPES = {
  none: (value: string) => value,
  /** RFC 3986: everything but unreserved characters. */
  url: (value: string) => encodeURIComponent(value),
  /** Inside a JSON string (RFC 8259). */
  json: (value: string) => JSON.stringify(value).slice(1, -1),
  /** A header value is one line (RFC 9110). */
  header: (value: string) => value.replace(/[\r\n\0]+/g, ' '),
} satisfies Record<string, Escape>

type Token = [kind: string, value: string, ...rest: unknown[]]

function parse(text: string): Token[] {
  if (!text.includes('{{')) return [['text', text]]
  let tokens: Token[]
  try {
    // The package’s own form of what it reads.
    tokens = Mustache.parse(text) as unknown as Token[]
  }
  catch (error) {
    throw new TemplateError(`${messageOf(error)}: every {{ needs its }}`)
  }
  for (const [kind, value] of tokens) {
    if (kind === '#' || kind === '^')
      throw new TemplateError(`{{${kind}${value}}} begins a section; only values are allowed here`)
    if (kind === '>') throw new TemplateError(`{{>${value}}} asks for another template; only values are allowed here`)
    if ((kind === 'name' || kind === '&') && value.trim() === '') throw new TemplateError('{{}} names no value')
  }
  return tokens
}

/** The target's addresses begin a URL: percent-encoded they would be none. */
function isAddress(name: string, value: string): boolean {
  return name.startsWith('target.') && /^https?:\/\//i.test(value)
}

/** Names of the values a text asks for, each once. @throws TemplateError */
export function namesIn(text: string): string[] {
  return [
    ...new Set(
      parse(text)
        .filter(([kind]) => kind === 'name' || kind === '&')
        .map(([, name]) => name),
    ),
  ]
}

/**
 * @param resolve finds a value by its name; throws TemplateError when nobody sets it
 * @param escape applied to values in `{{ }}`; those in `{{{ }}}` and `{{& }}` are put in as they are, and so are
 * addresses of the target
 * @throws TemplateError
 */
export function compileTemplate<Scope>(
  text: string,
  resolve: (name: string) => Resolved<Scope>,
  escape: Escape,
): Template<Scope> {
  const parts: (string | { name: string, get: Getter<Scope>, escape: Escape })[] = []
  const put = (fixed: string) => {
    if (typeof parts[parts.length - 1] === 'string') parts[parts.length - 1] += fixed
    else parts.push(fixed)
  }
  for (const [kind, value] of parse(text)) {
    if (kind === 'text') put(value)
    if (kind !== 'name' && kind !== '&') continue
    const resolved = resolve(value)
    const safe = kind === '&' ? ESCAPES.none : escape
    if ('fixed' in resolved) put(isAddress(value, resolved.fixed) ? resolved.fixed : safe(resolved.fixed))
    else parts.push({ name: value, get: resolved.get, escape: safe })
  }
  const fixed = parts.every(p => typeof p === 'string') ? parts.join('') : undefined
  return {
    fixed,
    lead: typeof parts[0] === 'string' ? parts[0] : '',
    render(scope) {
      if (fixed !== undefined) return fixed
      let whole = ''
      for (const part of parts) {
        if (typeof part === 'string') whole += part
        else {
          const value = part.get(scope)
          if (value === undefined) return undefined
          whole += part.escape(value)
        }
      }
      return whole
    },
    missing: scope =>
      parts.find((p): p is Exclude<typeof p, string> => typeof p !== 'string' && p.get(scope) === undefined)?.name,
  }
}
