/** Journeys as YAML or JSON text (YAML 1.2; JSON is a part of it), checked against the published schema, with errors at the line. */
import Ajv, { type ErrorObject } from 'ajv/dist/2020.js'
import { isMap, isScalar, LineCounter, parseDocument, stringify, type Document } from 'yaml'
import type { Journey } from '../journey/journey'
import { JOURNEY_SCHEMA } from '../journey/schema'

export interface TextProblem { line: number, sentence: string }

export type ReadText = { ok: true, journey: Journey } | { ok: false, problems: TextProblem[] }

/** Longest text read, characters. */
const MOST_CHARACTERS = 5_000_000

const ajv = new Ajv({ allErrors: true, strict: true, allowUnionTypes: true, strictRequired: false, strictTypes: false })
const validate = ajv.compile(JOURNEY_SCHEMA)

export function printJourney(journey: Journey): string {
  return stringify(journey, { lineWidth: 120, aliasDuplicateObjects: false })
}

export function readJourneyText(text: string): ReadText {
  if (text.length > MOST_CHARACTERS) return { ok: false, problems: [{ line: 1, sentence: `The text has ${text.length} characters; at most ${MOST_CHARACTERS} are read.` }] }
  const lines = new LineCounter()
  const document = parseDocument(text, { lineCounter: lines, prettyErrors: false })
  if (document.errors.length > 0) return { ok: false, problems: document.errors.slice(0, 20).map(e => ({ line: lines.linePos(e.pos[0]).line, sentence: `${e.message}.` })) }
  let value: unknown
  try { value = document.toJS({ maxAliasCount: 100 }) }
  catch (error) { return { ok: false, problems: [{ line: 1, sentence: `${(error as Error).message}.` }] } }
  if (/"?__proto__"?\s*:/.test(text)) return { ok: false, problems: [{ line: 1, sentence: '“__proto__” is no name of a field.' }] }
  if (validate(value)) return { ok: true, journey: value as unknown as Journey }
  // What only says that one of the branches failed helps nobody.
  const errors = validate.errors!.filter(e => e.keyword !== 'if' && e.keyword !== 'allOf')
  const seen = new Set<string>()
  const problems = errors.flatMap((e): TextProblem[] => {
    const line = lineOf(document, lines, e)
    const sentence = sentenceOf(e)
    if (seen.has(`${line} ${sentence}`)) return []
    seen.add(`${line} ${sentence}`)
    return [{ line, sentence }]
  })
  return { ok: false, problems: problems.slice(0, 20).sort((a, b) => a.line - b.line) }
}

function lineOf(document: Document, lines: LineCounter, { instancePath, params }: ErrorObject): number {
  const path = instancePath.split('/').slice(1).map(p => p.replaceAll('~1', '/').replaceAll('~0', '~'))
  const wrong = (params as { additionalProperty?: string }).additionalProperty
  for (let keep = path.length; keep >= 0; keep--) {
    const node = keep === 0 ? document.contents : document.getIn(path.slice(0, keep).map(p => /^\d+$/.test(p) ? Number(p) : p), true)
    if (wrong !== undefined && keep === path.length && isMap(node)) {
      const key = node.items.map(i => i.key).find(k => isScalar(k) && k.value === wrong)
      if (isScalar(key) && key.range) return lines.linePos(key.range[0]).line
    }
    const range = (node as { range?: [number, number, number] } | null)?.range
    if (range) return lines.linePos(range[0]).line
  }
  return 1
}

function sentenceOf({ instancePath, keyword, message, params }: ErrorObject): string {
  const where = instancePath === '' ? 'The journey' : instancePath.slice(1).replaceAll('/', ' → ')
  const p = params as { additionalProperty?: string, missingProperty?: string, allowedValues?: unknown[], allowedValue?: unknown }
  if (keyword === 'additionalProperties') return `${where} has a field “${p.additionalProperty}” that is not known.`
  if (keyword === 'required') return `${where} lacks the field “${p.missingProperty}”.`
  if (keyword === 'enum') return `${where} must be one of ${(p.allowedValues ?? []).join(', ')}.`
  if (keyword === 'const') return `${where} must be ${String(p.allowedValue)}.`
  return `${where} ${message ?? 'is wrong'}.`
}
