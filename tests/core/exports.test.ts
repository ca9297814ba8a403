/**
 * What is handed on, held against readers and schemas not made here: HAR by the published JSON Schemas of HAR 1.2 (the
 * package har-schema), JUnit XML by an XML parser, CSV by a CSV reader.
 */
import Ajv from 'ajv'
import { parse } from 'csv-parse/sync'
import { XMLParser } from 'fast-xml-parser'
// @ts-expect-error -- schemas alone, without types
import harSchemas from 'har-schema'
import type { ExchangeRecord } from '../../core/journey/exchange-record'
import { harOf } from '../../core/formats/har-of-exchanges'
import { readHar } from '../../core/formats/har'
import { junitOf } from '../../core/formats/junit'
import { secondsCsv, secondsCsvHead, secondsJsonLines } from '../../core/formats/seconds-table'
import type { Answer } from '../../core/objectives/judge'
import { slicesOf } from '../../core/result/slices'
import { SeriesSum } from '../../core/merge/series-sum'
import { slicedRun } from '../build/sliced-run'

const START_AT = Date.UTC(2026, 10, 26, 8, 0, 0)
const record = (over: Partial<ExchangeRecord> = {}): ExchangeRecord & { machine: string } => ({
  machine: 'REY-1',
  keptFor: 'pass',
  group: 'A',
  journeyId: 'enrol',
  step: 'Confirm',
  user: 7,
  pass: 2,
  beganAtMs: 1500,
  endedAtMs: 1620,
  request: {
    method: 'POST',
    url: 'http://127.0.0.1:8080/enrolments?term=autumn&term=2',
    headers: [['content-type', 'application/json'], ['x-token', '•••']],
    body: '{"module":"日本"}',
    bodyBytes: 19,
  },
  answer: {
    status: 201,
    headers: [['Content-Type', 'application/json; charset=utf-8'], ['Location', '/enrolments/7']],
    body: '{"enrolled":true}',
    bytes: 17,
    whole: true,
  },
  hops: [],
  timings: { lookupMs: 2, connectMs: 10, tlsMs: 20, firstByteMs: 100, wholeMs: 120 },
  failure: undefined,
  problem: '',
  checks: [],
  captured: [],
  ...over,
})

interface MadeEntry {
  startedDateTime: string
  time: number
  timings: Record<string, number>
  request: { queryString: object[] }
  _failure?: string
}

interface ReadSuite {
  name: string
  tests: string
  failures: string
  skipped: string
  testcase: { name: string, time: string, failure?: { message: string }, skipped?: object }[]
}

describe('HAR', () => {
  const { $schema: _, ...har } = harSchemas.har as { $schema: string }
  const ajv = new Ajv({ strict: false, formats: { 'date-time': s => !Number.isNaN(Date.parse(s)), uri: s => URL.canParse(s), email: true, ipv4: true, ipv6: true } })
  for (const [name, schema] of Object.entries(harSchemas as Record<string, { $schema?: string }>)) {
    if (name === 'har') continue
    const { $schema: _, ...plain } = schema
    ajv.addSchema(plain)
  }
  const holds = ajv.compile(har)
  const made = harOf(
    [
      record(),
      record({ beganAtMs: 900, answer: undefined, failure: 'timeout', problem: 'no answer within 10 s', timings: { lookupMs: -1, connectMs: -1, tlsMs: -1, firstByteMs: -1, wholeMs: 10_000 } }),
      record({ request: { method: 'GET', url: 'http://127.0.0.1:8080/', headers: [], body: '', bodyBytes: 0 } }),
    ],
    { startAt: START_AT, version: '1.0', comment: 'The slowest 3 of 9 that were kept.' },
  ) as { log: { entries: MadeEntry[] } }

  it('is as its published schema has it, in order of begin', () => {
    expect([holds(made), holds.errors]).toEqual([true, null])
    expect(made.log.entries.map(e => e.startedDateTime)).toEqual([
      '2026-11-26T08:00:00.900Z', '2026-11-26T08:00:01.500Z', '2026-11-26T08:00:01.500Z',
    ])
    expect(made.log.entries[0]!._failure).toBe('timeout')
    expect(made.log.entries[1]!.request.queryString).toEqual([{ name: 'term', value: 'autumn' }, { name: 'term', value: '2' }])
  })

  it('has timings that add up to the whole, TLS within connecting, as the format says', () => {
    for (const { time, timings } of made.log.entries) {
      const { ssl: _, ...parts } = timings
      expect(Object.values(parts).filter(ms => ms >= 0).reduce((a, b) => a + b, 0)).toBeCloseTo(time, 6)
    }
    const { timings } = made.log.entries[1]!
    expect(timings).toEqual({ blocked: -1, dns: 2, connect: 30, ssl: 20, send: 0, wait: 68, receive: 20 })
  })

  it('is read back by our own reader of captures', () => {
    const { entries } = readHar(JSON.stringify(made))
    expect(entries.map(e => [e.method, e.url.pathname, e.status])).toContainEqual(['POST', '/enrolments', 201])
  })
})

it('objectives as JUnit XML are read by an XML parser as they were judged', () => {
  const level = (users: number, fromS: number) => ({ users, fromS, toS: fromS + 45 })
  const p95 = { metric: 'p95' as const, step: 'Enrol & <confirm>', atMost: 1800 }
  const answer: Answer = {
    verdict: 'broken',
    sentence: 'No.',
    settled: true,
    judgements: [
      { objective: p95, level: level(150, 45), measured: 210, held: true },
      { objective: p95, level: level(600, 315), measured: 1910, held: false },
      { objective: { metric: 'failures', atMost: 0.005 }, level: level(600, 315), measured: undefined, held: false },
    ],
  }
  const text = junitOf({ question: 'Can it take “600”?', planName: 'How far', answer, journeys: [], startedAt: '2026-11-26T08:00:00.000Z', lengthS: 381 })
  const read = new XMLParser({ ignoreAttributes: false, attributeNamePrefix: '', isArray: name => name === 'testcase' }).parse(text) as {
    testsuites: { testsuite: ReadSuite }
  }
  const { name, tests, failures, skipped, testcase } = read.testsuites.testsuite
  expect([name, tests, failures, skipped]).toEqual(['Can it take “600”?', '3', '1', '1'])
  expect(testcase.map(c => [c.name, c.time, c.failure?.message, c.skipped !== undefined])).toEqual([
    ['p95 of Enrol & <confirm> at most 1.8 s in holds, 150 users, second 45 to 90', '45', undefined, false],
    ['p95 of Enrol & <confirm> at most 1.8 s in holds, 600 users, second 315 to 360', '45', '1.91 s', false],
    ['failures at most 0.5 % in holds, 600 users, second 315 to 360', '45', undefined, true],
  ])
})

it('every second is one row per value in CSV and in JSON Lines, and they say the same', () => {
  const at = (second: number) => {
    const sum = new SeriesSum()
    sum.started = second + 1
    sum.right = second
    for (let n = 0; n < second; n++) sum.timings.right.record(100_000)
    return { second, rows: slicesOf(slicedRun, into => into(0)?.add(sum), { rows: ['group'] }).rows }
  }
  const seconds = [0, 1, 2].map(at)
  const rows = parse(secondsCsvHead('group') + secondsCsv(seconds), { columns: true }) as Record<string, string>[]
  const lines = secondsJsonLines(seconds, 'group').trim().split('\n').map(l => JSON.parse(l) as Record<string, unknown>)
  // Groups in which nothing was are left out.
  expect(rows.map(r => [r.second, r.group, r.started, r.right])).toEqual([['0', 'A', '1', '0'], ['1', 'A', '2', '1'], ['2', 'A', '3', '2']])
  expect(rows.map(r => r.p95_ms)).toEqual(['', expect.stringMatching(/^100\.?\d*$/), expect.stringMatching(/^100\.?\d*$/)])
  expect(lines.map(l => Object.values(l).map(v => (v === null ? '' : String(v))))).toEqual(rows.map(r => Object.values(r)))
  expect(secondsCsv([])).toBe('')
})
