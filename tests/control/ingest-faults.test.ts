/** The merge worker as a thread of its own: nothing that is put into it ends it, and what cannot be taken is told. */
import { join } from 'node:path'
import Database from 'better-sqlite3'
import { Ingest, type IngestListener } from '../../control/ingest/ingest'
import type { ExchangeRecord } from '../../core/journey/exchange-record'
import { ownFolder } from '../build/folder'
import { framesOf, type Sample } from '../build/frames'
import { until } from '../build/house'
import { runDocument } from '../build/plans'

const folder = ownFolder()
const GENERATORS = [
  { machineId: 'a', name: 'REY-1', location: 0 },
  { machineId: 'b', name: 'TAV-1', location: 1 },
]
const samples: Sample[] = Array.from({ length: 40 }, (_, i) => ({ series: i % 2, startS: i * 0.25, ms: 20 + i }))
const told: { acks: number[], asides: string[], kept: number[], broken: string[] } = {
  acks: [],
  asides: [],
  kept: [],
  broken: [],
}
const listener: IngestListener = {
  onAck: (_, ack) => told.acks.push(ack.upTo),
  onExemplars: (_run, _generator, _incarnation, batch) => told.kept.push(batch),
  onSeconds() {
    /* not read */
  },
  onGrown() {
    /* nothing is told from elsewhere */
  },
  onFinished() {
    /* not read */
  },
  onBrokenSoFar() {
    /* not read */
  },
  onAside: (_, generator, what, sentence) => told.asides.push(`${generator} ${what}: ${sentence}`),
  onBroken: sentence => told.broken.push(sentence),
}
const record = (over: object = {}): ExchangeRecord => ({
  keptFor: 'slowest',
  group: 'A',
  journeyId: 'j',
  step: 'Look',
  user: 1,
  pass: 1,
  beganAtMs: 1,
  endedAtMs: 2,
  request: { method: 'GET', url: 'http://x/', headers: [], body: '', bodyBytes: 0 },
  answer: undefined,
  hops: [],
  timings: { lookupMs: -1, connectMs: -1, tlsMs: -1, firstByteMs: -1, wholeMs: 5 },
  failure: undefined,
  problem: '',
  checks: [],
  captured: [],
  ...over,
})
let ingest: Ingest
/** Ends one of its threads, as a fault in it would. */
const end = (thread: 'merging' | 'reading') =>
  (ingest as unknown as Record<string, { worker: { terminate(): Promise<number> } }>)[thread]!.worker.terminate()
const path = join(folder, 'run.db')
beforeAll(() => {
  ingest = new Ingest(join(__dirname, '../../dist/merge-worker.mjs'), (error) => {
    throw error
  })
  ingest.listener = listener
  ingest.open(1, path, runDocument(), GENERATORS)
  // Only the first is heard here.
  ingest.leave(1, 1, 0)
})
afterAll(() => ingest.stop())

describe('the merge worker', () => {
  it('takes the good exemplars of a batch, says what is wrong with the others, and goes on', async () => {
    const batch = (n: number, records: unknown[]) =>
      ingest.exemplars(1, path, 0, {
        incarnation: 1,
        batch: n,
        records: records as ExchangeRecord[],
        passes: [],
        dropped: 0,
      })
    batch(1, [record(), record({ step: { toString: 'no' } }), record({ timings: { wholeMs: 'long' } }), 7, null])
    batch(2, [record({ step: 'Ask', failure: 'timeout' })])
    await until(() => told.kept.length === 2, 5000, 'both batches')
    expect(told.asides).toEqual([expect.stringMatching(/^0 exemplars: 4 of 5 exemplars are not as agreed: it/)])
    const found = await ingest.findExemplars(path, { most: 10 })
    expect([found.records.map(r => r.step).sort(), found.dropped]).toEqual([['Ask', 'Look'], 4])
  })

  it('tells of a frame it cannot read and of one about a second that cannot be, and merges the others', async () => {
    const frames = framesOf(samples)
    ingest.frame(1, 0, Uint8Array.of(9, 9, 9), 100)
    frames.forEach((f, i) => ingest.frame(1, 0, f.bytes, i === 3 ? 2 : 100))
    await until(() => told.acks.length > 0, 5000, 'an acknowledgement')
    expect(told.asides.slice(1)).toEqual(['0 frame: frame: too short', '0 frame: frame: second 3 lies beyond 2'])
    expect(told.acks.at(-1)).toBe(3)
    ingest.frame(1, 0, frames[3]!.bytes, 100)
    await until(() => told.acks.at(-1) === frames.length, 5000, 'all of them')
    const window = await ingest.window(path, runDocument(), 0, 5, {})
    expect(window.total.started).toBe(20)
  })

  it('sets aside what nobody can take, and still answers', async () => {
    ingest.leftover(1, join(folder, 'no-such-folder', 'x.db'), 0, 'A', 'log', new Uint8Array(3))
    await until(() => told.asides.some(a => a.startsWith('0 other: leftover')), 5000, 'its being set aside')
    ingest.open(2, join(folder, 'no-such-folder', 'y.db'), runDocument(), GENERATORS)
    await until(() => told.broken.length === 1, 5000, 'the run that cannot be opened')
    expect(told.broken[0]).toContain('Its file could not be opened')
    await expect(ingest.window(join(folder, 'nowhere', 'z.db'), runDocument(), 0, 5, {})).rejects.toThrow()
    expect((await ingest.seconds(path, { fromS: 0, toS: 100 }, 2)).length).toBeGreaterThan(0)
  })

  it('is started anew when it ends, and those who wait are told', async () => {
    const waiting = ingest.window(path, runDocument(), 0, 5, {})
    const before = told.broken.length
    await end('merging')
    await expect(waiting.catch((error: Error) => error.message)).resolves.toBeDefined()
    await until(() => told.broken.length > before, 5000, 'the word that it was started anew')
    expect(told.broken.at(-1)).toContain('was started anew')
    expect((await ingest.window(path, runDocument(), 0, 5, {})).total.started).toBe(20)
  })

  it('answers about a run that is over in a thread of its own: neither waits for the other, or ends with it', async () => {
    const over = join(folder, 'over.db')
    const store = new Database(path)
    store.prepare('VACUUM INTO ?').run(over)
    store.close()
    const before = await ingest.window(path, runDocument(), 0, 5, {})
    const asked = Promise.all([
      ingest.window(over, runDocument(), 0, 5, {}),
      ingest.slices({ path: over, document: runDocument(), machines: [] }, 0, 5, { rows: ['step'] }),
      ingest.failures({ path: over, document: runDocument(), machines: [] }, 0, 5, undefined),
    ])
    await end('merging')
    const [window, slices, failures] = await asked
    expect([window.total.started, slices.whole.started, failures.ended]).toEqual([
      before.total.started,
      before.total.started,
      before.total.right,
    ])
    await end('reading')
    await expect(ingest.seconds(over, { fromS: 0, toS: 100 }, 2)).resolves.toBeDefined()
  })
})
