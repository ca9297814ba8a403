/**
 * YAML (1.2; JSON is a part of it) from elsewhere, with bounds on what it may be: length, nesting, nodes, aliases. A
 * key that stands twice is found here in one pass: the parser's own check compares every key with every other (20,000
 * keys took 36 s).
 */
import { type Document, isMap, isNode, isPair, isScalar, isSeq, LineCounter, parseDocument } from 'yaml'
import { messageOf } from '../values/thrown'

/** Longest text read, characters. */
const MOST_CHARACTERS = 5_000_000
/** Deepest nesting, and most values of all. */
const MOST_DEPTH = 100
const MOST_NODES = 200_000
const MOST_ALIASES = 100
const MOST_FAULTS = 20

export interface YamlFault {
  line: number
  sentence: string
}

export type BoundedYaml =
  { ok: true, document: Document, lines: LineCounter, value: unknown } | { ok: false, faults: YamlFault[] }

export function parseBounded(text: string): BoundedYaml {
  const refused = (line: number, sentence: string): BoundedYaml => ({ ok: false, faults: [{ line, sentence }] })
  if (text.length > MOST_CHARACTERS)
    return refused(1, `The text has ${text.length} characters; at most ${MOST_CHARACTERS} are read.`)
  const tooDeep = deepestBracket(text)
  if (tooDeep !== undefined) return refused(tooDeep, `It is nested more than ${MOST_DEPTH} deep.`)
  const lines = new LineCounter()
  let document: Document
  try {
    document = parseDocument(text, { lineCounter: lines, prettyErrors: false, uniqueKeys: false })
  }
  catch (error) {
    if (!(error instanceof RangeError)) throw error
    return refused(1, `It is nested more than ${MOST_DEPTH} deep.`)
  }
  if (document.errors.length > 0)
    return {
      ok: false,
      faults: document.errors
        .slice(0, MOST_FAULTS)
        .map(e => ({ line: lines.linePos(e.pos[0]).line, sentence: `${e.message}.` })),
    }
  const faults = faultsOf(document, lines)
  if (faults.length > 0) return { ok: false, faults }
  try {
    return { ok: true, document, lines, value: document.toJS({ maxAliasCount: MOST_ALIASES }) }
  }
  catch (error) {
    return refused(1, `${messageOf(error)}.`)
  }
}

/**
 * Brackets nest without indenting: they are counted before the parser goes down after them. @returns the line where
 * they nest too deep
 */
function deepestBracket(text: string): number | undefined {
  let depth = 0
  let line = 1
  for (let i = 0; i < text.length; i++) {
    const c = text.charCodeAt(i)
    if (c === 10) line++
    else if (c === 91 || c === 123) {
      if (++depth > MOST_DEPTH * 10) return line
    }
    else if (c === 93 || c === 125) depth = Math.max(0, depth - 1)
  }
  return undefined
}

/** Keys that stand twice, names that change prototypes, and what is too deep or too much. */
function faultsOf(document: Document, lines: LineCounter): YamlFault[] {
  const faults: YamlFault[] = []
  let nodes = 0
  const waiting: { node: unknown, depth: number }[] = [{ node: document.contents, depth: 1 }]
  const lineOf = (node: unknown) => {
    return isNode(node) && node.range ? lines.linePos(node.range[0]).line : 1
  }
  for (let next = waiting.pop(); next && faults.length < MOST_FAULTS; next = waiting.pop()) {
    const { node, depth } = next
    if (++nodes > MOST_NODES) return [{ line: lineOf(node), sentence: `It holds more than ${MOST_NODES} values.` }]
    if (depth > MOST_DEPTH) return [{ line: lineOf(node), sentence: `It is nested more than ${MOST_DEPTH} deep.` }]
    if (isMap(node)) {
      const keys = new Set<unknown>()
      for (const { key, value } of node.items) {
        if (isScalar(key)) {
          if (keys.has(key.value))
            faults.push({
              line: lineOf(key),
              sentence: `“${String(key.value).slice(0, 60)}” stands twice in the same place.`,
            })
          if (key.value === '__proto__')
            faults.push({ line: lineOf(key), sentence: '“__proto__” is no name of a field.' })
          keys.add(key.value)
        }
        waiting.push({ node: value, depth: depth + 1 })
      }
    }
    else if (isSeq(node))
      for (const item of node.items) waiting.push({ node: isPair(item) ? item.value : item, depth: depth + 1 })
  }
  return faults.sort((a, b) => a.line - b.line)
}
