/**
 * What every route does the same way: check what came, call the coordinator, answer; a problem answers with code,
 * sentence and remedy.
 */
import Ajv, { type ErrorObject, type ValidateFunction } from 'ajv/dist/2020.js'
import addFormats from 'ajv-formats'
import { defineEventHandler, getQuery, getRouterParam, setResponseStatus, type H3Event } from 'h3'
import type { ErrorCode } from '../api/errors'
import type { ApiProblem } from '../api/views'
import { SHARED_SCHEMAS } from '../api/requests'

const ajv = new Ajv({
  allErrors: true,
  verbose: true,
  allowUnionTypes: true,
  strictTypes: false,
  strictRequired: false,
})
addFormats(ajv)
ajv.addSchema(SHARED_SCHEMAS)

/** Largest body read, bytes; main/ turns away what says so beforehand. */
const MOST_BODY_BYTES = 2 * 1024 * 1024

/** A route without a body. */
export function answers<T>(act: (event: H3Event) => T | Promise<T>) {
  return defineEventHandler(async (event) => {
    try {
      return await act(event)
    }
    catch (error) {
      return problem(event, error)
    }
  })
}

/** A route whose body must match a schema. */
export function answersTo<B, T>(schema: object, act: (body: B, event: H3Event) => T | Promise<T>) {
  const validate = ajv.compile(schema) as ValidateFunction<B>
  return answers(async (event) => {
    const body: unknown = parse(await readText(event))
    if (validate(body)) return act(body, event)
    // What only says that one of several branches failed helps nobody.
    const first = validate.errors!.find(e => e.keyword !== 'if') ?? validate.errors![0]!
    throw new BadRequest(
      'form',
      400,
      `${first.instancePath.slice(1).replaceAll('/', ' → ') || 'The request'} ${inWords(first)}.`,
      'Correct it and send again.',
    )
  })
}

/** What a value must be, as people say it; where only a pattern tells, the schema's own description does. */
function inWords({ keyword, params, message, parentSchema, data }: ErrorObject): string {
  const { description } = (parentSchema ?? {}) as { description?: string }
  switch (keyword) {
    case 'pattern':
      return description ? `is “${String(data).slice(0, 60)}”, and must be ${description}` : message!
    case 'maximum':
      return `is ${String(data)}, and at most ${String(params.limit)} is allowed`
    case 'minimum':
      return `is ${String(data)}, and at least ${String(params.limit)} is needed`
    case 'exclusiveMinimum':
      return `is ${String(data)}, and must be more than ${String(params.limit)}`
    case 'minLength':
      return 'is empty'
    case 'additionalProperties':
      return `${message} (“${String(params.additionalProperty)}”)`
    default:
      return message!
  }
}

/** A path parameter that is a whole number. */
export function numberParam(event: H3Event, name: string): number {
  const n = Number(getRouterParam(event, name))
  if (!Number.isSafeInteger(n))
    throw new BadRequest('address', 404, `“${getRouterParam(event, name)}” is not a number.`, 'Check the address.')
  return n
}

/** A path parameter that is a text. */
export function textParam(event: H3Event, name: string): string {
  const written = getRouterParam(event, name) ?? ''
  try {
    return decodeURIComponent(written)
  }
  catch {
    throw new BadRequest(
      'address',
      404,
      `“${written}” is no name: its percent signs do not stand for letters.`,
      'Check the address.',
    )
  }
}

/** A number of the query; nothing where it is left out. */
export function numberQuery(event: H3Event, name: string): Record<string, number> {
  const written = getQuery(event)[name]
  if (written === undefined || written === '') return {}
  const n = Number(written)
  if (!Number.isFinite(n))
    throw new BadRequest(
      'address',
      400,
      `${name} is “${String(written).slice(0, 60)}”, which is not a number.`,
      'Check the address.',
    )
  return { [name]: n }
}

class BadRequest extends Error {
  constructor(
    readonly code: ErrorCode,
    readonly status: number,
    readonly sentence: string,
    readonly remedy: string,
  ) {
    super(sentence)
  }
}

/** Read by hand, not by h3, so that the size is bounded also when it is not announced. */
async function readText(event: H3Event): Promise<string> {
  const chunks: Buffer[] = []
  let size = 0
  for await (const chunk of event.node.req) {
    size += (chunk as Buffer).length
    if (size > MOST_BODY_BYTES)
      throw new BadRequest('too-large', 413, 'The request is larger than 2 MB.', 'Send less at once.')
    chunks.push(chunk as Buffer)
  }
  return Buffer.concat(chunks).toString('utf8')
}

function parse(text: string): unknown {
  try {
    return JSON.parse(text, (key, value: unknown) => {
      if (key === '__proto__') throw new Error('prototype')
      return value
    })
  }
  catch {
    throw new BadRequest('json', 400, 'The request is not JSON.', 'Correct it and send again.')
  }
}

function problem(event: H3Event, error: unknown): ApiProblem {
  const known = error as Partial<BadRequest> | null
  if (known && typeof known.status === 'number' && typeof known.sentence === 'string') {
    setResponseStatus(event, known.status)
    return { code: known.code!, sentence: known.sentence, remedy: known.remedy! }
  }
  console.error(error)
  setResponseStatus(event, 500)
  return {
    code: 'fault',
    sentence: 'Vornak made a mistake of its own; nothing was changed.',
    remedy: 'See the console of the server, and report it.',
  }
}
