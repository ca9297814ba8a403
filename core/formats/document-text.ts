/**
 * Documents as YAML or JSON text (YAML 1.2; JSON is a part of it), checked against their published schema, with errors
 * at the line. What every kind of document does the same way; journey-text.ts and plan-text.ts say what is theirs.
 */
import type { ErrorObject } from 'ajv/dist/2020.js'
import { type Document, isMap, isNode, isScalar, type LineCounter } from 'yaml'
import { parseBounded } from './bounded-yaml'
import { pathOf, schemaChecks, type SchemaCheck, valueAt } from '../values/schema-faults'
import { objectOf, textOf } from '../values/untyped'

export interface TextProblem {
  line: number
  sentence: string
}

export type ReadText<T> = { ok: true, value: T } | { ok: false, problems: TextProblem[] }

/** A field of the document, by its path. */
export type LineOf = (path: readonly (string | number)[]) => number

export interface TextKind<T> {
  /** “The plan”. */
  what: string
  schema: object
  /** Says more than the schema can about a value of the wrong form. @param value what stands there */
  hint?: (path: string, value: unknown) => string | undefined
  /** Brings what an earlier release wrote up to date, before it is checked. */
  upgrade?: (value: unknown) => unknown
  /** What is wrong although the form is right. */
  meaning?: (value: T, lineOf: LineOf) => TextProblem[]
}

const MOST_PROBLEMS = 20
/** Faults whose lines are looked up: each look-up goes through the keys beside it. */
const MOST_LOOKED_UP = 10 * MOST_PROBLEMS

const checkOf = schemaChecks({
  strict: true,
  allowUnionTypes: true,
  strictRequired: false,
  strictTypes: false,
  validateSchema: false,
})
/** Compiled when the first document of its kind is read. */
const checks = new Map<object, SchemaCheck>()

export function readDocument<T>(text: string, kind: TextKind<T>): ReadText<T> {
  const refused = (line: number, sentence: string): ReadText<T> => ({ ok: false, problems: [{ line, sentence }] })
  const parsed = parseBounded(text)
  if (!parsed.ok) return { ok: false, problems: parsed.faults }
  const { document, lines } = parsed
  let { value } = parsed
  if (typeof value !== 'object' || value === null || Array.isArray(value))
    return refused(1, `${kind.what} is a list of fields with their values; this text is not.`)
  value = kind.upgrade?.(value) ?? value
  const at: LineOf = path => lineOf(document, lines, path)
  const faults = faultsOf(kind.schema, value)
  if (faults.length === 0) {
    // Held against the schema of T just now.
    const problems = kind.meaning?.(value as T, at) ?? []
    // As above.
    return problems.length > 0 ? { ok: false, problems } : { ok: true, value: value as T }
  }
  // What only says that one of the branches failed helps nobody.
  const errors = faults.filter(e => e.keyword !== 'if' && e.keyword !== 'allOf').slice(0, MOST_LOOKED_UP)
  const seen = new Set<string>()
  const problems = errors.flatMap((e): TextProblem[] => {
    const path = pathOf(e)
    const line = lineOf(document, lines, path, textOf(objectOf(e.params).additionalProperty) || undefined)
    const sentence = kind.hint?.(e.instancePath, valueAt(value, path)) ?? sentenceOf(kind.what, e)
    if (seen.has(`${line} ${sentence}`)) return []
    seen.add(`${line} ${sentence}`)
    return [{ line, sentence }]
  })
  return { ok: false, problems: problems.slice(0, MOST_PROBLEMS).sort((a, b) => a.line - b.line) }
}

function faultsOf(schema: object, value: unknown): ErrorObject[] {
  let check = checks.get(schema)
  if (!check) checks.set(schema, (check = checkOf(schema)))
  return check(value)
}

/** @param wrong a key of the field that is not known: its own line is told */
function lineOf(document: Document, lines: LineCounter, path: readonly (string | number)[], wrong?: string): number {
  for (let keep = path.length; keep >= 0; keep--) {
    const node =
      keep === 0
        ? document.contents
        : document.getIn(
            path.slice(0, keep).map(p => (/^\d+$/.test(String(p)) ? Number(p) : p)),
            true,
          )
    if (wrong !== undefined && keep === path.length && isMap(node)) {
      const key = node.items.map(i => i.key).find(k => isScalar(k) && k.value === wrong)
      if (isScalar(key) && key.range) return lines.linePos(key.range[0]).line
    }
    if (isNode(node) && node.range) return lines.linePos(node.range[0]).line
  }
  return 1
}

function sentenceOf(what: string, { instancePath, keyword, message, params }: ErrorObject): string {
  const where = instancePath === '' ? what : instancePath.slice(1).replaceAll('/', ' → ')
  // What Ajv tells of each keyword it knows.
  const p = params as {
    additionalProperty?: string
    missingProperty?: string
    allowedValues?: unknown[]
    allowedValue?: unknown
    propertyName?: string
  }
  if (keyword === 'additionalProperties') return `${where} has a field “${p.additionalProperty}” that is not known.`
  if (keyword === 'propertyNames') return `${where} has a name “${p.propertyName}” that cannot be.`
  if (keyword === 'required') return `${where} lacks the field “${p.missingProperty}”.`
  if (keyword === 'enum') return `${where} must be one of ${(p.allowedValues ?? []).join(', ')}.`
  if (keyword === 'const') return `${where} must be ${String(p.allowedValue)}.`
  return `${where} ${message ?? 'is wrong'}.`
}
