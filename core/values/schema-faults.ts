/**
 * What is wrong in a value that is held against a JSON schema, found in a time that does not grow with the square of
 * how much is wrong: Ajv copies the faults it has at every part that adds some, and all those of 38,000 wrong steps
 * took half a minute.
 */
import Ajv, { type AnySchema, type ErrorObject, type Options } from 'ajv/dist/2020.js'
import { isObject, memberOf, type Untyped } from './untyped'

/** Entries of lists that are looked through for all that is wrong; beyond them only the first fault is told. */
export const MOST_ENTRIES = 2000
/** Keys of one object; more are none that a schema names. */
const MOST_KEYS = 1000
/** Deeper than any schema looks: what is nested more is not gone into. */
const DEEPEST = 100
/** What is said of a part as a whole: of one that was cut it may be untrue. */
const OF_THE_WHOLE = ['minItems', 'contains', 'required', 'minProperties', 'if', 'anyOf', 'oneOf']

/** @returns its faults in the order of the schema; none where it is right */
export type SchemaCheck = (value: unknown) => ErrorObject[]

/**
 * @param options of Ajv, but for `allErrors` @param prepare formats, and schemas that others refer to @param most
 * entries that are looked through @returns makes the check of a schema
 */
export function schemaChecks(
  options: Options,
  prepare: (ajv: Ajv) => void = () => {
    /* none */
  },
  most = MOST_ENTRIES,
): (schema: AnySchema) => SchemaCheck {
  const made = (allErrors: boolean) => {
    const ajv = new Ajv({ ...options, allErrors })
    prepare(ajv)
    return ajv
  }
  const untilOne = made(false)
  // When something is wrong for the first time: most of what comes is right.
  let untilAll: Ajv | undefined
  return (schema) => {
    const isRight = untilOne.compile(schema)
    return (value) => {
      if (isRight(value)) return []
      const first = isRight.errors ?? []
      const { beginning, cut } = beginningOf(value, most)
      const findAll = (untilAll ??= made(true)).compile(schema)
      findAll(beginning)
      const isKnown = (e: ErrorObject) => !OF_THE_WHOLE.includes(e.keyword) || !cut.has(valueAt(beginning, pathOf(e)))
      const all = (findAll.errors ?? []).filter(isKnown)
      const told = new Set(all.map(nameOf))
      return [...first.filter(e => !told.has(nameOf(e))), ...all]
    }
  }
}

/**
 * A copy whose lists have no more entries than this in all, and none of whose objects has more keys than
 * {@link MOST_KEYS}, in the order in which they are written. @returns `cut`: its parts that lack some
 */
function beginningOf(value: unknown, most: number): { beginning: unknown, cut: Set<unknown> } {
  let left = most
  const cut = new Set<unknown>()
  const begun = (of: unknown, depth: number): unknown => {
    if (depth > DEEPEST) return of
    const copied = (member: unknown) => begun(member, depth + 1)
    let copy: unknown[] | Untyped
    if (isObject(of)) {
      const keys = Object.keys(of)
      copy = Object.fromEntries(keys.slice(0, MOST_KEYS).map(key => [key, copied(of[key])]))
      if (keys.length > MOST_KEYS) cut.add(copy)
    }
    else if (Array.isArray(of)) {
      copy = []
      for (let i = 0; i < of.length && left > 0; i++, left--) copy.push(copied(of[i]))
      if (copy.length < of.length) cut.add(copy)
    }
    else return of
    if (Object.values(copy).some(member => cut.has(member))) cut.add(copy)
    return copy
  }
  return { beginning: begun(value, 1), cut }
}

/** The names and indices that lead to where a fault is (RFC 6901). */
export const pathOf = ({ instancePath }: ErrorObject): string[] =>
  instancePath.split('/').slice(1).map(p => p.replaceAll('~1', '/').replaceAll('~0', '~'))

/** What stands at the end of such a path. */
export const valueAt = (value: unknown, path: readonly string[]): unknown => path.reduce<unknown>(memberOf, value)

const nameOf = ({ instancePath, schemaPath, params }: ErrorObject) => JSON.stringify([instancePath, schemaPath, params])
