/**
 * Control messages, JSON both ways. Each has a `kind`; its schema stands beside its type and is compiled once. The
 * order follows the life of a generator. docs/protocol.md tells the same as a conversation.
 */
import Ajv from 'ajv/dist/2020.js'
import type { ExchangeRecord } from '../core/journey/exchange-record'
import type { PassRecord } from '../core/journey/pass-record'
import type { RollCallReport } from '../core/fleet/roll-call'
import type { RunDocument } from '../core/run/document'
import type { Post } from '../core/run/slice'
import { objectOf } from '../core/values/untyped'

/** What a generator knows of the machine it runs on. */
export interface HostFacts {
  hostname: string
  platform: string
  node: string
  /** CPU granted, in cores. */
  cores: number
  memoryBytes: number
  /** Most open descriptors. */
  descriptors: number
}

/** Where a generator stands with its run; told when a link is taken up again. */
export type WorkState = 'idle' | 'prepared' | 'loading' | 'finished'

/** One step of one journey, tried by one user. */
export interface RehearsedStep {
  journeyId: string
  step: string
  ok: boolean
  /** Status of the answer; 0 when none came. */
  status: number
  durationMs: number
  /** Why it was not right. */
  problem?: string
}

/** What a generator needs beside the document. Contents are asked for with `want`, in parts. */
export interface RunSupplies {
  /** Values of the target that are sealed in the store: kept in memory only. */
  secrets: Record<string, string>
  files: { id: string, bytes: number }[]
  feeds: FeedSupply[]
  /** Index of the generator among all of the run, and how many there are. */
  generator: number
  generators: number
}

/** A stretch of a feed's rows: bytes of its file. */
export interface RowStretch {
  fromByte: number
  toByte: number
  rows: number
}

export interface FeedSupply {
  id: string
  columns: string[]
  /** Content id of the rows. */
  file: string
  /** All rows, where some journey deals them in order or at random. */
  whole?: RowStretch
  /** This generator's own, where each row is dealt once. */
  slice?: RowStretch
}

export type ToGenerator =
  | { kind: 'hello', version: number, epoch: number, nonce: string }
  | { kind: 'refused', code: string, sentence: string }
  | { kind: 'enrolled', generatorId: string, epoch: number, leaseMs: number, graceMs: number }
  /**
   * `echo`: `t3` of the last answer that was heard, 0 before the first: from that moment the generator counts its
   * grace.
   */
  | { kind: 'beat', t1: number, leaseMs: number, echo: number }
  | {
    kind: 'rollCall'
    nonce: string
    hosts: { host: string, secure: boolean }[]
    /** Private addresses that names of the hosts may stand for. */
    addressRanges: string[]
    runtimes: { program: string, arguments: string[] }[]
    selfTestS: number
  }
  | { kind: 'rehearse', document: RunDocument, runId: string, supplies: RunSupplies }
  | { kind: 'try', id: string, document: RunDocument, supplies: RunSupplies }
  | {
    kind: 'prepare'
    runId: string
    document: RunDocument
    generators: number[][]
    post: Post
    leaveMs: number
    supplies: RunSupplies
  }
  /** Bytes of a file that was asked for. */
  | { kind: 'part', file: string, from: number, base64: string }
  /** `startAt` is on the generator's own clock, ms since 1970. */
  | { kind: 'go', runId: string, startAt: number }
  /**
   * What a group that holds a request rate takes from now on: mean time between two requests of one user, s, and no
   * rate above this, 1/s. Each generator reckons its users from it.
   */
  | { kind: 'rate', runId: string, group: number, betweenS: number, mostRate: number }
  /** How many users a group of a calibration should have from now on, over all generators. */
  | { kind: 'steer', runId: string, group: number, users: number }
  /**
   * Load of lost generators: users by their places among those of its slice who come and go by the plan, and of passes
   * every `of`-th from each slot on.
   */
  | {
    kind: 'takeOver'
    runId: string
    lost: {
      location: number
      generator: number
      users: number[]
      passes: { group: number, of: number, slots: number[] }[]
    }[]
  }
  | { kind: 'drain', runId: string, reason: string }
  | { kind: 'abort', runId: string, reason: string }
  /** Frames of this worker up to and including this number are safe. */
  | { kind: 'ack', incarnation: number, worker: number, upTo: number }
  /** A batch of exemplars is safe. */
  | { kind: 'exemplarsAck', incarnation: number, batch: number }
  | { kind: 'release', reason: string }

export type FromGenerator =
  | {
    kind: 'enrol'
    version: number
    token: string
    publicKey: string
    /** Over the greeting's nonce: whose answer was lost may introduce itself again. */
    signature?: string
    facts: HostFacts
  }
  | { kind: 'resume', version: number, generatorId: string, signature: string, state: WorkState, runId: string }
  | { kind: 'beatReply', t1: number, t2: number, t3: number }
  | ({ kind: 'rollCallReply' } & RollCallReport)
  | { kind: 'rehearsed', runId: string, steps: RehearsedStep[] }
  | { kind: 'tried', id: string, records: ExchangeRecord[], problem: string }
  | { kind: 'want', file: string, from: number, to: number }
  | { kind: 'prepared', runId: string, users: number }
  /** The work cannot be done here, and why. */
  | { kind: 'unprepared', runId: string, problem: string }
  | {
    kind: 'exemplars'
    runId: string
    incarnation: number
    batch: number
    records: ExchangeRecord[]
    passes: PassRecord[]
    dropped: number
  }
  /** What a command wrote to standard error, and files it left. */
  | { kind: 'commandLog', runId: string, group: string, text: string }
  | { kind: 'broughtBack', runId: string, group: string, name: string, from: number, base64: string, last: boolean }
  | { kind: 'going', runId: string }
  | { kind: 'finished', runId: string, reason: string }
  | { kind: 'trouble', sentence: string }

const text = { type: 'string', maxLength: 10_000 }
const id = { type: 'string', minLength: 1, maxLength: 200 }
const number = { type: 'number' }
/** As large as a number can be counted exactly. */
const count = { type: 'integer', minimum: 0, maximum: Number.MAX_SAFE_INTEGER }
/** A place within a file. */
const offset = { type: 'integer', minimum: 0, maximum: 2 ** 40 }
const version = { type: 'integer' }
const flag = { type: 'boolean' }
// Plans are checked where they are saved; here only that one is there.
const file = { type: 'string', pattern: '^[0-9a-f]{64}$' }
const stretch = {
  type: 'object',
  required: ['fromByte', 'toByte', 'rows'],
  properties: { fromByte: count, toByte: count, rows: count },
}
const supplies = {
  type: 'object',
  additionalProperties: false,
  required: ['secrets', 'files', 'feeds', 'generator', 'generators'],
  properties: {
    secrets: { type: 'object', additionalProperties: { type: 'string' } },
    generator: count,
    generators: count,
    files: {
      type: 'array',
      items: { type: 'object', required: ['id', 'bytes'], properties: { id: file, bytes: count } },
    },
    feeds: {
      type: 'array',
      items: {
        type: 'object',
        required: ['id', 'columns', 'file'],
        properties: { id, columns: { type: 'array', items: { type: 'string' } }, file, whole: stretch, slice: stretch },
      },
    },
  },
}
// Exemplars are shown, never reckoned with: their form is checked where they are read.
const records = { type: 'array', maxItems: 10_000, items: { type: 'object', required: ['step', 'request', 'timings'] } }
const passes = { type: 'array', maxItems: 10_000, items: { type: 'object', required: ['journeyId', 'exchanges'] } }
const part = { type: 'string', maxLength: 3_000_000 }
/** Numbers within a slice. */
const places = { type: 'array', maxItems: 200_000, items: count }
const document = { type: 'object', required: ['plan', 'planVersion', 'target', 'journeys'] }

function message(kind: string, properties: Record<string, unknown>, optional: string[] = []) {
  const all = { kind: { const: kind }, ...properties }
  return {
    type: 'object',
    additionalProperties: false,
    required: Object.keys(all).filter(k => !optional.includes(k)),
    properties: all,
  }
}

function list(properties: Record<string, unknown>, optional: string[] = []) {
  return {
    type: 'array',
    maxItems: 10_000,
    items: {
      type: 'object',
      additionalProperties: false,
      required: Object.keys(properties).filter(k => !optional.includes(k)),
      properties,
    },
  }
}

const TO_GENERATOR: Record<ToGenerator['kind'], object> = {
  hello: message('hello', { version, epoch: count, nonce: id }),
  refused: message('refused', { code: id, sentence: text }),
  enrolled: message('enrolled', { generatorId: id, epoch: count, leaseMs: number, graceMs: number }),
  beat: message('beat', { t1: number, leaseMs: number, echo: number }),
  rollCall: message('rollCall', {
    nonce: id,
    hosts: list({ host: id, secure: flag }),
    addressRanges: { type: 'array', maxItems: 200, items: id },
    runtimes: list({ program: id, arguments: { type: 'array', maxItems: 20, items: text } }),
    selfTestS: number,
  }),
  rehearse: message('rehearse', { document, runId: id, supplies }),
  prepare: message('prepare', {
    runId: id,
    document,
    generators: { type: 'array', items: { type: 'array', items: number } },
    post: { type: 'object', required: ['location', 'generator'], properties: { location: count, generator: count } },
    leaveMs: number,
    supplies,
  }),
  try: message('try', { id, document, supplies }),
  part: message('part', { file, from: offset, base64: part }),
  go: message('go', { runId: id, startAt: number }),
  rate: message('rate', {
    runId: id,
    group: count,
    betweenS: { type: 'number', exclusiveMinimum: 0 },
    mostRate: { type: 'number', minimum: 0 },
  }),
  steer: message('steer', { runId: id, group: count, users: count }),
  takeOver: message('takeOver', {
    runId: id,
    lost: list({
      location: count,
      generator: count,
      users: places,
      passes: list({ group: count, of: { type: 'integer', minimum: 1 }, slots: places }),
    }),
  }),
  drain: message('drain', { runId: id, reason: text }),
  abort: message('abort', { runId: id, reason: text }),
  ack: message('ack', { incarnation: count, worker: count, upTo: count }),
  exemplarsAck: message('exemplarsAck', { incarnation: count, batch: count }),
  release: message('release', { reason: text }),
}

const FROM_GENERATOR: Record<FromGenerator['kind'], object> = {
  enrol: message('enrol', {
    version,
    token: id,
    publicKey: { type: 'string', maxLength: 2000 },
    signature: text,
    facts: {
      type: 'object',
      additionalProperties: false,
      required: ['hostname', 'platform', 'node', 'cores', 'memoryBytes', 'descriptors'],
      properties: {
        hostname: text,
        platform: text,
        node: text,
        cores: number,
        memoryBytes: number,
        descriptors: number,
      },
    },
  }, ['signature']),
  resume: message('resume', {
    version,
    generatorId: id,
    signature: text,
    state: { enum: ['idle', 'prepared', 'loading', 'finished'] },
    runId: { type: 'string', maxLength: 200 },
  }),
  beatReply: message('beatReply', { t1: number, t2: number, t3: number }),
  rollCallReply: message(
    'rollCallReply',
    {
      nonce: id,
      program: id,
      speed: number,
      memoryFreeBytes: number,
      descriptors: number,
      ports: number,
      diskFreeBytes: number,
      reached: list(
        {
          host: id,
          ok: flag,
          addresses: { type: 'array', maxItems: 100, items: id },
          lookupMs: number,
          connectMs: number,
          tlsMs: number,
          firstByteMs: number,
          status: number,
          challenge: flag,
          from: { type: 'string', maxLength: 200 },
          problem: text,
        },
        ['problem'],
      ),
      runtimes: list({ program: id, ok: flag, said: text }),
      selfTest: {
        type: 'object',
        additionalProperties: false,
        required: ['requests', 'cpuUsPerRequest', 'mostPerS'],
        properties: { requests: number, cpuUsPerRequest: number, mostPerS: number },
      },
    },
    ['selfTest'],
  ),
  rehearsed: message('rehearsed', {
    runId: id,
    steps: list({ journeyId: id, step: text, ok: flag, status: number, durationMs: number, problem: text }, [
      'problem',
    ]),
  }),
  tried: message('tried', { id, records, problem: text }),
  want: message('want', { file, from: offset, to: offset }),
  prepared: message('prepared', { runId: id, users: count }),
  unprepared: message('unprepared', { runId: id, problem: text }),
  exemplars: message('exemplars', { runId: id, incarnation: count, batch: count, records, passes, dropped: count }),
  commandLog: message('commandLog', { runId: id, group: id, text: { type: 'string', maxLength: 100_000 } }),
  broughtBack: message('broughtBack', {
    runId: id,
    group: id,
    name: { type: 'string', maxLength: 500 },
    from: offset,
    base64: part,
    last: flag,
  }),
  going: message('going', { runId: id }),
  finished: message('finished', { runId: id, reason: text }),
  trouble: message('trouble', { sentence: text }),
}

/** A message that could not be read, and why. */
export class MessageError extends Error {
  override name = 'MessageError'
}

const ajv = new Ajv({ allErrors: false, strict: true, strictRequired: false, validateSchema: false })

function readerOf<M extends { kind: string }>(schemas: Record<M['kind'], object>): (json: string) => M {
  return (json) => {
    let parsed: unknown
    try {
      parsed = JSON.parse(json, withoutProto)
    }
    catch (error) {
      throw error instanceof MessageError ? error : new MessageError('a message is not JSON')
    }
    const kind = objectOf(parsed).kind
    // It is one of its own keys.
    const schema = typeof kind === 'string' && Object.hasOwn(schemas, kind) ? schemas[kind as M['kind']] : undefined
    if (!schema) throw new MessageError(`a message of unknown kind “${String(kind).slice(0, 40)}”`)
    // Compiled when the first one of its kind comes; Ajv keeps it by the schema itself.
    const validate = ajv.compile(schema)
    if (!validate(parsed))
      throw new MessageError(
        `a ${String(kind)} message is not as agreed: ${ajv.errorsText(validate.errors, { dataVar: 'it' })}`,
      )
    // Held against the schema of its kind just now.
    return parsed as M
  }
}

function withoutProto(key: string, value: unknown): unknown {
  if (key === '__proto__') throw new MessageError('a message tries to change prototypes')
  return value
}

/** Reads what a controller said. @throws MessageError */
export const readToGenerator = readerOf<ToGenerator>(TO_GENERATOR)
/** Reads what a generator said. @throws MessageError */
export const readFromGenerator = readerOf<FromGenerator>(FROM_GENERATOR)
