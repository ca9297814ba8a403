/** Reads what came with a request and holds it against the table of the API: address first, then body. */
import type { IncomingMessage } from 'node:http'
import { Type, type TProperties } from '@sinclair/typebox'
import Ajv, { type ErrorObject } from 'ajv/dist/2020.js'
import addFormats from 'ajv-formats'
import { addressParts, type OperationId } from '../api/addresses'
import { OPERATIONS, PATH_PARAMETERS, type Operation } from '../api/operations'
import { DOCUMENT_SCHEMAS } from '../api/requests'
import { ControlError } from '../control/errors'
import { bodyOf } from './body'
import { schemaChecks, type SchemaCheck } from '../core/values/schema-faults'
import { objectOf, textOf } from '../core/values/untyped'
import { present } from '../core/values/present'

const checkOfBody = schemaChecks(
  { verbose: true, allowUnionTypes: true, strictTypes: false, strictRequired: false, validateSchema: false },
  (ajv) => {
    addFormats(ajv)
    ajv.addSchema(Object.values(DOCUMENT_SCHEMAS))
  },
)
/** Texts of an address become the numbers they stand for. */
const addresses = new Ajv({ coerceTypes: true, verbose: true, validateSchema: false })

type Values = Record<string, unknown>

export interface ReadRequest {
  /** Values of the names in the path, and of the query. */
  at: Values
  /** Checked JSON, or the stream of a file. */
  body: unknown
}

/** @returns reads requests for one operation; what it returns throws {@link ControlError} */
export function readerOf(id: OperationId) {
  const { query = {}, body }: Operation = OPERATIONS[id]
  // An address names no parameter that is not in the table; a test holds them together.
  const names = [...addressParts(id).path.matchAll(/\{(\w+)\}/g)].map(m => m[1] as keyof typeof PATH_PARAMETERS)
  // When the operation is first asked for: the schemas of all of them take seconds, and a process would wait for them.
  let checks: ReturnType<typeof compiled> | undefined
  const compiled = () => ({
    path: addresses.compile(Type.Object(Object.fromEntries(names.map(n => [n, PATH_PARAMETERS[n]])))),
    queried: addresses.compile(Type.Object(query)),
    asked: body === undefined || body === 'bytes' ? undefined : checkOfBody(body),
  })

  return async (written: Record<string, string>, search: Values, stream: IncomingMessage): Promise<ReadRequest> => {
    const { path, queried, asked } = (checks ??= compiled())
    const inPath = Object.fromEntries(names.map(n => [n, decoded(written[n] ?? '')]))
    if (!path(inPath)) throw badPath(firstOf(path.errors), written)
    const inQuery = onlyKnown(search, query)
    if (!queried(inQuery)) throw badQuery(firstOf(queried.errors))
    return { at: { ...inPath, ...inQuery }, body: asked ? await checkedBody(stream, asked) : stream }
  }
}

/** A name that is written without a value was left out. */
function onlyKnown(search: Values, query: TProperties): Values {
  return Object.fromEntries(Object.entries(search).filter(([name, value]) => name in query && value !== ''))
}

function decoded(written: string): string {
  try {
    return decodeURIComponent(written)
  }
  catch {
    throw new ControlError(
      'address',
      404,
      `“${written}” is no name: its percent signs do not stand for letters.`,
      'Check the address.',
    )
  }
}

function badPath({ instancePath }: ErrorObject, written: Values): ControlError {
  // It was one of the parameters that were held against the schema.
  const name = instancePath.slice(1) as keyof typeof PATH_PARAMETERS
  const { description } = PATH_PARAMETERS[name]
  return new ControlError('address', 404, `“${String(written[name])}” is not ${description}.`, 'Check the address.')
}

function badQuery({ keyword, instancePath, params, data, parentSchema }: ErrorObject): ControlError {
  const sentence
    = keyword === 'required'
      ? `${String(params.missingProperty)} is missing.`
      : `${instancePath.slice(1)} is “${String(data).slice(0, 60)}”, which is not ${
        textOf(objectOf(parentSchema).description) || 'what it must be'
      }.`
  return new ControlError('address', 400, sentence, 'Check the address.')
}

async function checkedBody(stream: IncomingMessage, check: SchemaCheck): Promise<unknown> {
  const body = parsed((await bodyOf(stream)).toString('utf8'))
  const all = check(body)
  if (all.length === 0) return body
  const errors = all.filter(e => !OF_BRANCHES.includes(e.keyword))
  const first = errors[0] ?? firstOf(all)
  throw new ControlError(
    'form',
    400,
    `${placeOf(first).replaceAll('.', ' → ') || 'The request'} ${inWords(first)}.`,
    'Correct it and send again.',
    faultsOf(errors),
  )
}

/** Errors that only say that one of several branches failed help nobody. */
const OF_BRANCHES = ['if', 'anyOf', 'oneOf']
/** More are not told at once. */
const MOST_FAULTS = 50

/** One for each place, the first that was found there; what is missing stands at its own place. */
function faultsOf(errors: readonly ErrorObject[]): { at: string, sentence: string }[] {
  const byPlace = new Map<string, string>()
  for (const error of errors) {
    const isMissing = error.keyword === 'required'
    const at = [placeOf(error), ...(isMissing ? [String(error.params.missingProperty)] : [])].filter(Boolean).join('.')
    const sentence = isMissing ? 'is missing' : inWords(error)
    if (!byPlace.has(at)) byPlace.set(at, `${sentence[0]!.toUpperCase()}${sentence.slice(1)}.`)
  }
  return [...byPlace].slice(0, MOST_FAULTS).map(([at, sentence]) => ({ at, sentence }))
}

const placeOf = ({ instancePath }: ErrorObject) => instancePath.slice(1).replaceAll('/', '.')

/** What a value must be, as people say it; where only a pattern tells, the schema's own description does. */
function inWords({ keyword, params, message, parentSchema, data }: ErrorObject): string {
  const description = textOf(objectOf(parentSchema).description)
  switch (keyword) {
    case 'pattern':
      return description ? `is “${String(data).slice(0, 60)}”, and must be ${description}` : (message ?? 'is not as it must be')
    case 'maximum':
      return `is ${String(data)}, and at most ${String(params.limit)} is allowed`
    case 'minimum':
      return `is ${String(data)}, and at least ${String(params.limit)} is needed`
    case 'exclusiveMinimum':
      return `is ${String(data)}, and must be more than ${String(params.limit)}`
    case 'minLength':
      return 'is empty'
    case 'maxItems':
    case 'maxProperties':
      return `has more than ${String(params.limit)} entries`
    case 'additionalProperties':
      return `${message} (“${String(params.additionalProperty)}”)`
    default:
      return message ?? 'is not as it must be'
  }
}

/** A key that changes prototypes, however its letters are written: most texts have neither, and are read at once. */
const MAY_CHANGE_PROTOTYPES = /__proto__|\\u00/

function parsed(text: string): unknown {
  try {
    if (!MAY_CHANGE_PROTOTYPES.test(text)) return JSON.parse(text)
    return JSON.parse(text, (key, value: unknown) => {
      if (key === '__proto__') throw new Error('prototype')
      return value
    })
  }
  catch {
    throw new ControlError('json', 400, 'The request is not JSON.', 'Correct it and send again.')
  }
}

/** What Ajv says first of what it has refused. */
function firstOf(errors: ErrorObject[] | null | undefined): ErrorObject {
  return present(errors?.[0], 'a fault of what was refused')
}
