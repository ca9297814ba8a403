/** Sums of machines: what frames say, in any window, made or not, also when more comes late. */
import { existsSync } from 'node:fs'
import { join } from 'node:path'
import { MachineSums } from '../../control/ingest/machine-sums'
import { addFrames } from '../../control/ingest/machine-frames'
import { RunMerge } from '../../control/ingest/run-merge'
import { readRun } from '../../control/ingest/run-reader'
import { sumMachines } from '../../control/ingest/summing-machines'
import { openRunFile, type Store } from '../../control/store/open'
import { ByteWriter } from '../../core/histogram/varint'
import type { SeriesSum } from '../../core/merge/series-sum'
import { sumIn } from '../../core/merge/series-sum'
import { seededRandom } from '../../core/random/seeded'
import { ownFolder } from '../build/folder'
import { framesOf, type Sample } from '../build/frames'
import { runDocument } from '../build/plans'

const folder = ownFolder()
const document = runDocument()
const GENERATORS = [
  { machineId: 'a', name: 'REY-1', location: 0 },
  { machineId: 'b', name: 'TAV-1', location: 1 },
]
const LENGTH_S = 137
/** Steps of the test's journey, at both locations. */
const SERIES = 6
const samples = (first: number, seed: number): Sample[] => {
  const random = seededRandom(seed)
  return Array.from({ length: 900 }, (_, i) => ({
    series: first + (i % 2),
    startS: (i * (LENGTH_S - 2)) / 900,
    ms: 20 + random() * 900,
    fails: i % 50 === 0,
  }))
}
let count = 0
/** A run over those frames. @param late frames that come once all others are written */
function runOf(late = 0): { path: string, merge: RunMerge, last: { generator: number, bytes: Uint8Array }[] } {
  const path = join(folder, `run-${++count}.db`)
  const merge = new RunMerge(path, document, GENERATORS)
  const all = [framesOf(samples(0, 1)), framesOf(samples(3, 2))].flatMap((list, generator) =>
    list.map(f => ({ generator, bytes: f.bytes })))
  // Late ones are from the middle: the ledger waits for none of them.
  const at = 40
  const last = all.splice(at, late)
  for (const { generator, bytes } of all) merge.take(generator, bytes)
  return { path, merge, last }
}
const told = (adding: (into: (n: number) => SeriesSum) => void) => {
  const sums = new Map<number, SeriesSum>()
  adding(n => sumIn(sums, n))
  return [...sums].sort((a, b) => a[0] - b[0]).map(([n, sum]) => {
    const w = new ByteWriter()
    sum.writeTo(w)
    return [n, Buffer.from(w.take()).toString('hex')]
  })
}
const byFrames = (store: Store, fromS: number, toS: number) =>
  told(into => addFrames(store, fromS, toS, into, SERIES))
const bySums = (store: Store, fromS: number, toS: number) =>
  told(into => new MachineSums(store).addWindow(fromS, toS, into, SERIES))
const WINDOWS = [
  [0, LENGTH_S], [0, 100], [3, 8], [7, 131], [10, 20], [99, 101], [100, 110], [95, 4000], [50, 50],
] as const

describe('sums of machines', () => {
  it('equal their frames in every window, before and while they are made, and afterwards', () => {
    const { path, merge } = runOf()
    merge.settle()
    merge.close()
    const store = openRunFile(path)
    const sums = new MachineSums(store)
    const expected = WINDOWS.map(([a, b]) => byFrames(store, a, b))
    expect(expected[0]).toHaveLength(4)
    for (let made = 0; ; made += 10) {
      expect(sums.madeUpTo).toBe(made)
      expect(WINDOWS.map(([a, b]) => bySums(store, a, b))).toEqual(expected)
      if (!sums.makeMore()) break
    }
    // The last seconds make no ten, and stay frames.
    expect(sums.madeUpTo).toBe(130)
    const levels = store
      .prepare('SELECT level, COUNT(DISTINCT slot) AS n FROM machine_packs GROUP BY level')
      .all()
    expect(levels).toEqual([{ level: 10, n: 13 }, { level: 100, n: 1 }])
    // Frames are not looked at where sums are there.
    store.exec('DELETE FROM chunks WHERE second < 100')
    expect(bySums(store, 0, 100)).toEqual(expected[1])
    store.close()
  })

  it('reach no further than what is merged', () => {
    const { path, merge } = runOf(3)
    merge.flush()
    const store = openRunFile(path)
    const sums = new MachineSums(store)
    while (sums.makeMore());
    const { value } = store.prepare<[], { value: string }>('SELECT value FROM facts WHERE name = \'mergedUpTo\'').get()!
    expect(sums.madeUpTo).toBeLessThanOrEqual(Number(value) + 1)
    expect(sums.madeUpTo).toBeGreaterThan(Number(value) + 1 - 10)
    merge.close()
    store.close()
  })

  it('are made again where frames come late', () => {
    const { path, merge, last } = runOf(3)
    merge.settle()
    const store = openRunFile(path)
    const sums = new MachineSums(store)
    while (sums.makeMore());
    const before = sums.madeUpTo
    const short = bySums(store, 0, LENGTH_S)
    for (const { generator, bytes } of last) merge.take(generator, bytes)
    merge.flush()
    expect(sums.madeUpTo).toBe(0)
    const whole = byFrames(store, 0, LENGTH_S)
    expect(whole).not.toEqual(short)
    expect(bySums(store, 0, LENGTH_S)).toEqual(whole)
    while (sums.makeMore());
    expect(sums.madeUpTo).toBe(before)
    expect(bySums(store, 0, LENGTH_S)).toEqual(whole)
    merge.close()
    store.close()
  })

  it('are made beside the one who asks, and not of a file that is gone', async () => {
    const { path, merge } = runOf()
    merge.settle()
    merge.close()
    sumMachines(path)
    sumMachines(path)
    const asked = () => readRun(path, run => told(into => run.addMachines(0, LENGTH_S, into, SERIES)))
    const first = asked()
    const store = openRunFile(path)
    const sums = new MachineSums(store)
    while (sums.madeUpTo < 130) await new Promise(r => setTimeout(r, 5))
    expect(asked()).toEqual(first)
    store.close()
    const gone = join(folder, 'gone.db')
    sumMachines(gone)
    await new Promise(r => setTimeout(r, 2100))
    expect(existsSync(gone)).toBe(false)
  })
})
