/**
 * Figures that programs send: by the exporters of the open telemetry protocol's own makers, as JSON and as protobuf
 * (@opentelemetry/exporter-metrics-otlp-http and -proto), so that names and field numbers are held against theirs.
 */
import { execFile } from 'node:child_process'
import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { gzipSync } from 'node:zlib'
import { Inbox, MOST_WAITING, type Letterbox } from '../../control/target/inbox'
import { SentReader } from '../../control/target/sent-reader'
import { takeSent, type SentFigures } from '../../control/target/sent-figures'
import { trySource } from '../../control/target/trying'
import type { SeriesChoice, Source } from '../../core/target/source'
import { target as someTarget } from '../build/plans'

const SENDER = join(__dirname, '../build/telemetry-sender.mjs')
const now = () => Date.now()
let box: Letterbox
let server: Server
let url = ''
/** Why the last one was not taken. */
let refusal: unknown
beforeEach(async () => {
  box = new Inbox().of('t', 's')
  refusal = undefined
  server = createServer((request, response) => {
    void (async () => {
      const chunks: Buffer[] = []
      for await (const chunk of request) chunks.push(chunk as Buffer)
      const isBinary = request.headers['content-type'] === 'application/x-protobuf'
      try {
        const packed = request.headers['content-encoding']
        takeSent(box, { bytes: Buffer.concat(chunks), packed, form: isBinary ? 'protobuf' : 'json' }, now())
      }
      catch (error) {
        refusal = error
      }
      response.writeHead(refusal ? 400 : 200, { 'content-type': request.headers['content-type']! }).end()
    })()
  })
  await new Promise<void>(r => server.listen(0, '127.0.0.1', r))
  url = `http://127.0.0.1:${(server.address() as AddressInfo).port}/v1/metrics`
})
afterEach(() => {
  server.closeAllConnections()
  server.close()
})

const series: SeriesChoice[] = [
  { name: 'calls', of: 'app.calls', kind: 'count', by: 'route' },
  { name: 'open', of: 'app.open', kind: 'gauge' },
  { name: 'used', of: 'app.used', kind: 'gauge', by: 'pool.name' },
  { name: 'mean', of: 'app.took', kind: 'mean' },
  { name: 'half', of: 'app.took', kind: 'p50' },
]
const source: Source = { name: 's', kind: 'sent', address: '', everyS: 1, series }

describe.each([
  ['JSON, counted on', 'json CUMULATIVE'],
  ['protobuf, counted on', 'protobuf CUMULATIVE'],
  ['JSON, what came since', 'json DELTA'],
  ['protobuf, what came since, packed', 'protobuf DELTA gzip'],
])('metrics as %s', (_, how) => {
  it('are read as they were meant', async () => {
    const own = new SentReader(source, box, now, 1)
    const began = now()
    await promisify(execFile)(process.execPath, [SENDER, url, ...how.split(' ')])
    expect(refusal).toBeUndefined()
    const { points } = await own.read()
    const of = (which: string, split = '') =>
      points.filter(p => series[p.series]!.name === which && p.split === split).map(p => p.value)
    // Since the first reading, before which nothing is known.
    expect(of('calls', '/a')).toEqual([0, 4])
    expect(of('calls', '/b')).toEqual([0, 2])
    expect(of('open')).toEqual([5, 3])
    // A part of one, nought, below it, and what takes 64 bits.
    expect(of('used', '0')).toEqual([0.25, 0.25])
    expect([of('used', '1')[0], of('used', '2')[0], of('used', '3')[0]]).toEqual([0, -1, 2 ** 53 - 1])
    expect(of('mean')).toEqual([80])
    // Two of three lie within 10 to 100, evenly spread: the middle of all is at 0.75 of it.
    expect(of('half')[0]).toBeCloseTo(10 + 90 * 0.75, 9)
    const newest = Math.max(...points.map(p => p.atMs))
    expect(newest).toBeGreaterThan(began)
    expect(newest).toBeLessThanOrEqual(now() + 1)
  })
})

describe('what cannot be read', () => {
  const bytes = (text: string) => new TextEncoder().encode(text)
  const refused = (sent: Partial<SentFigures>) => {
    try {
      takeSent(box, { bytes: bytes(''), packed: undefined, form: 'lines', ...sent }, now())
      return undefined
    }
    catch (error) {
      return error as { code: string, sentence: string }
    }
  }
  it.each<[string, Partial<SentFigures>, string]>([
    ['a line', { bytes: bytes('a 1\nb two') }, 'Line 2: “two” is no number.'],
    ['more at once than may wait', { bytes: bytes('a 1\n'.repeat(MOST_WAITING + 1)) }, `More than ${MOST_WAITING} values came at once.`],
    ['JSON that is none', { form: 'json', bytes: bytes('{') }, 'It is no request of the open telemetry protocol for metrics.'],
    ['JSON of something else', { form: 'json', bytes: bytes('{"resourceSpans":[]}') }, 'It has no resourceMetrics.'],
    ['bytes that are none', { form: 'protobuf', bytes: Uint8Array.of(0xff, 0xff, 0xff) }, 'It cannot be read'],
    ['another packing', { packed: 'br' }, 'It is packed as “br”.'],
    ['what is not packed', { packed: 'gzip', bytes: bytes('a 1') }, 'It cannot be unpacked'],
    ['what bursts', { packed: 'gzip', bytes: gzipSync(Buffer.alloc(20_000_000)) }, 'It cannot be unpacked'],
  ])('%s is told, and nothing of it is taken', (_, sent, sentence) => {
    const error = refused(sent)
    expect(error).toMatchObject({ code: 'sent' })
    expect(error!.sentence).toContain(sentence)
    expect(box.latest(now())).toEqual([])
  })

  it('more than is read is refused, not dropped', () => {
    const listening = box.listen()
    const samples = Array.from({ length: MOST_WAITING }, () => ({ name: 'a', labels: {}, value: 1 }))
    expect(box.put({ samples, at: now() })).toBe(1)
    expect(refused({ bytes: bytes('a 1') })).toMatchObject({ code: 'busy' })
    expect(listening.taken()[0]!.samples).toHaveLength(MOST_WAITING)
    expect(refused({ bytes: bytes('a 1') })).toBeUndefined()
    listening.end()
  })

  it('what was refused is not added up: it will be sent again', () => {
    const listening = box.listen()
    const grown = (value: number) => ({ name: 'a', labels: {}, value, isGrowth: true })
    box.put({ samples: [grown(3)], at: now() })
    expect(box.put({ samples: Array.from({ length: MOST_WAITING }, () => grown(1)), at: now() })).toBeUndefined()
    box.put({ samples: [grown(4)], at: now() })
    expect(listening.taken().flatMap(d => d.samples.map(s => s.value))).toEqual([3, 7])
    listening.end()
  })

  it('of what nobody reads no more is kept than a try shows', () => {
    const many = Array.from({ length: 15_000 }, (_, i) => ({ name: `a${i}`, labels: {}, value: 1 }))
    for (let i = 0; i < 10; i++) box.put({ samples: many, at: now() })
    expect(box.latest(now())).toHaveLength(1)
  })
})

it('a try tells that nothing was sent, then what came, and what would be read of it', async () => {
  const inbox = new Inbox()
  const library = { target: () => someTarget({}), secretsOf: () => ({}) }
  const around = { inbox, now, commands: { open: () => Promise.reject(new Error('no host')) } }
  const open: Source = { ...source, series: [{ name: 'open', of: 'open', kind: 'gauge', by: 'pool' }] }
  const silent = await trySource('t', open, library, around)
  expect(silent.steps.at(-1)).toMatchObject({ step: 'answer', isRight: false, sentence: 'Nothing was sent to it in the last minute.' })
  const send = (text: string) =>
    takeSent(inbox.of('t', 's'), { bytes: new TextEncoder().encode(text), packed: undefined, form: 'lines' }, now())
  expect(send('open{pool="a"} 3\nopen{pool="b"} 4')).toEqual({ taken: 2, runs: 0 })
  send('open{pool="a"} 5')
  const tried = await trySource('t', open, library, around)
  expect(tried.steps.every(s => s.isRight)).toBe(true)
  expect(tried.offered).toMatchObject([{ of: 'open', lines: 2, labels: { pool: ['a', 'b'] } }])
  expect(tried.found[0]!.lines.map(l => [l.split, l.value])).toEqual([['a', 5], ['b', 4]])
})
