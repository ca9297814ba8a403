/** A merge that begins anew knows what it knew, whenever it ended, and reads only what came since that was kept. */
import { join } from 'node:path'
import { RunMerge } from '../../control/ingest/run-merge'
import { openRunFile } from '../../control/store/open'
import { ByteWriter } from '../../core/histogram/varint'
import { seededRandom } from '../../core/random/seeded'
import { asEarlier } from '../build/earlier-run-file'
import { ownFolder } from '../build/folder'
import { framesOf, type Sample } from '../build/frames'
import { runDocument } from '../build/plans'

const folder = ownFolder()
const document = runDocument()
const GENERATORS = [
  { machineId: 'a', name: 'REY-1', location: 0 },
  { machineId: 'b', name: 'TAV-1', location: 1 },
]
const LENGTH_S = 190
const samples = (first: number, seed: number): Sample[] => {
  const random = seededRandom(seed)
  return Array.from({ length: 1500 }, (_, i) => ({
    series: first + (i % 2),
    startS: (i * (LENGTH_S - 6)) / 1500,
    ms: 20 + random() * 4000,
    fails: i % 50 === 0,
  }))
}
/** Two workers at one place, one at the other. */
const FRAMES = [
  { generator: 0, frames: framesOf(samples(0, 1), { seconds: LENGTH_S }) },
  { generator: 0, frames: framesOf(samples(0, 2), { seconds: LENGTH_S, worker: 1, users: 2 }) },
  { generator: 1, frames: framesOf(samples(3, 3), { seconds: LENGTH_S }) },
]
/** In the order they come: nearly that of their seconds, some much later, some twice. */
function coming(seed: number): { generator: number, bytes: Uint8Array, second: number }[] {
  const random = seededRandom(seed)
  return FRAMES.flatMap(({ generator, frames }) =>
    frames.flatMap(({ bytes, second }) => {
      const late = random() < 0.03 ? 90 * random() : 2 * random()
      const once = { generator, bytes, second, at: second + late }
      return random() < 0.05 ? [once, { ...once, at: once.at + 20 * random() }] : [once]
    }),
  ).sort((a, b) => a.at - b.at)
}
let count = 0
const fresh = () => join(folder, `run-${++count}.db`)
const open = (path: string) => new RunMerge(path, document, GENERATORS)
/** The ledger without how many came again: that is written down once a minute only, and decides nothing. */
function ledgerOf(merge: RunMerge) {
  const ledger = merge.ledger(new Map([[1, 150]]))
  return { ...ledger, accounts: ledger.accounts.map(a => ({ ...a, frames: { ...a.frames, repeated: 0 } })) }
}
const known = (merge: RunMerge) => ({
  ledger: ledgerOf(merge),
  health: [...merge.health],
  users: [0, 1].map(g => [...merge.workerSeconds(g)].map(({ second, users }) => [second, users])),
  seconds: merge.seconds().map(s => ({ ...s, generators: s.generators.sort(([a], [b]) => a - b) })),
  sums: [...merge.window(0, LENGTH_S)].sort((a, b) => a[0] - b[0]).map(([n, sum]) => {
    const w = new ByteWriter()
    sum.writeTo(w)
    return [n, Buffer.from(w.take()).toString('hex')]
  }),
})

describe('a merge that begins anew', () => {
  it.each([1, 2, 3, 4, 5, 6])('knows what one that went on knows (order %i)', (seed) => {
    const frames = coming(seed)
    const random = seededRandom(100 + seed)
    const steady = open(fresh())
    const path = fresh()
    let merge = open(path)
    let restarts = 0
    frames.forEach(({ generator, bytes }, i) => {
      steady.take(generator, bytes)
      merge.take(generator, bytes)
      if (i % 5 !== 0) return
      steady.flush()
      merge.flush()
      if (random() > 0.1) return
      restarts++
      merge.close()
      merge = open(path)
      expect(known(merge)).toEqual(known(steady))
    })
    expect(restarts).toBeGreaterThan(5)
    steady.settle()
    merge.settle()
    expect(known(merge)).toEqual(known(steady))
    expect(known(open(path))).toEqual(known(steady))
  })

  it('does not read again what was written down', () => {
    const path = fresh()
    const merge = open(path)
    for (const { generator, bytes, second } of coming(1)) {
      if (second >= 130) continue
      merge.take(generator, bytes)
      merge.flush()
    }
    const before = known(merge)
    merge.close()
    const store = openRunFile(path)
    // What was written down at second 120 or so needs none of the frames of the first minute that had come by then.
    const drop = store.prepare(`
      DELETE FROM chunks
      WHERE second < 60 AND id <= (SELECT value ->> '$.chunk' FROM facts WHERE name = 'merged')
    `)
    expect(drop.run().changes).toBeGreaterThan(60)
    store.close()
    expect(known(open(path))).toEqual(before)
  })

  it('goes on with a file of a release that had a row for each frame', () => {
    const frames = coming(7)
    const steady = open(fresh())
    const path = fresh()
    const earlier = open(path)
    const half = frames.slice(0, 300)
    for (const { generator, bytes } of half) {
      steady.take(generator, bytes)
      earlier.take(generator, bytes)
    }
    steady.flush()
    earlier.flush()
    earlier.close()
    asEarlier(path)
    let merge = open(path)
    expect(known(merge)).toEqual(known(steady))
    for (const { generator, bytes } of frames.slice(300)) {
      steady.take(generator, bytes)
      merge.take(generator, bytes)
    }
    steady.settle()
    merge.flush()
    merge.close()
    merge = open(path)
    merge.settle()
    expect(known(merge)).toEqual(known(steady))
  })
})
