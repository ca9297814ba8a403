/** A folded run answers as it did before, but for generators in windows that are not whole stretches. */
import { statSync } from 'node:fs'
import { join } from 'node:path'
import { foldFrames } from '../../control/ingest/folding'
import { KeptFrames } from '../../control/ingest/kept-frames'
import { RunMerge } from '../../control/ingest/run-merge'
import { readRun } from '../../control/ingest/run-reader'
import { openRunFile } from '../../control/store/open'
import { ByteWriter } from '../../core/histogram/varint'
import { sumIn, type SeriesSum } from '../../core/merge/series-sum'
import { seededRandom } from '../../core/random/seeded'
import { machineCourse, machineRecord } from '../../core/run/machine-course'
import { openFrame } from '../../protocol/frame'
import { asEarlier } from '../build/earlier-run-file'
import { ownFolder } from '../build/folder'
import { framesOf, type Sample } from '../build/frames'
import { runDocument } from '../build/plans'

const folder = ownFolder()
const document = runDocument()
document.plan.groups[0]!.profile.segments.push({ to: 3, overMs: 2_400_000 })
const GENERATORS = [
  { machineId: 'a', name: 'REY-1', location: 0 },
  { machineId: 'b', name: 'TAV-1', location: 1 },
]
const SERIES = 6
const LENGTH_S = 2345
const samples = (first: number, seed: number): Sample[] => {
  const random = seededRandom(seed)
  return Array.from({ length: 2000 }, (_, i) => ({
    series: first + (i % 2),
    startS: (i * (LENGTH_S - 3)) / 2000,
    ms: 20 + random() * 900,
    fails: i % 50 === 0,
  }))
}
let count = 0
function settledRun(): string {
  const path = join(folder, `run-${++count}.db`)
  const merge = new RunMerge(path, document, GENERATORS)
  const all = [samples(0, 1), samples(3, 2)].map(s => framesOf(s, { seconds: LENGTH_S - 1 }))
  for (let i = 0; i < all[0]!.length; i++) {
    all.forEach((frames, g) => merge.take(g, frames[i]!.bytes))
    if (i % 7 === 0) merge.flush()
  }
  merge.settle()
  merge.close()
  return path
}
const hex = (sums: Map<number, SeriesSum>) =>
  [...sums].sort((a, b) => a[0] - b[0]).map(([n, sum]) => {
    const w = new ByteWriter()
    sum.writeTo(w)
    return [n, Buffer.from(w.take()).toString('hex')]
  })
const byMachine = (path: string, fromS: number, toS: number) =>
  readRun(path, (run) => {
    const sums = new Map<number, SeriesSum>()
    run.addMachines(fromS, toS, n => sumIn(sums, n), SERIES)
    return hex(sums)
  })
const WHOLE = [
  [0, LENGTH_S], [0, 1000], [1000, 2000], [1000, 2100], [2000, 2300], [2300, 2340], [2310, 2343], [2341, 2345],
] as const
/** Everything else that is asked of it. */
const others = (path: string) =>
  readRun(path, run => ({
    windows: [[0, LENGTH_S], [17, 1203], [5, 6]].map(([a, b]) => hex(run.window(a!, b!))),
    seconds: run.seconds(),
    records: [0, 1].map(g => machineRecord(g, run.workerSeconds(g))),
    course: machineCourse(run.workerSeconds(1, 100, 700), { fromS: 100, toS: 700 }, 50),
  }))

describe('a folded run', () => {
  it('tells what it told before: of all any window, of generators whole stretches; and is smaller', () => {
    const path = settledRun()
    const before = { whole: WHOLE.map(([a, b]) => byMachine(path, a, b)), others: others(path) }
    expect(before.whole.map(w => w.length)).not.toContain(0)
    foldFrames(path)
    expect(WHOLE.map(([a, b]) => byMachine(path, a, b))).toEqual(before.whole)
    expect(others(path)).toEqual(before.others)
    const store = openRunFile(path)
    let left = 0
    new KeptFrames(store).each(0, 1e9, (_, bytes) => {
      expect(openFrame(bytes).top.second).toBeGreaterThanOrEqual(2340)
      left++
    })
    expect(left).toBe(2 * (LENGTH_S - 2340))
    const size = statSync(path).size
    store.exec('VACUUM')
    store.pragma('wal_checkpoint(TRUNCATE)')
    expect(statSync(path).size).toBeLessThan(size)
    store.close()
  })

  it('refuses what it cannot tell, rather than to tell a part of it', () => {
    const path = settledRun()
    foldFrames(path)
    foldFrames(path)
    for (const [a, b] of [[3, 8], [0, 999], [500, 1000], [1000, 2050]])
      expect(() => byMachine(path, a!, b!)).toThrow('folded')
    expect(readRun(path, run => run.isFolded)).toBe(true)
  })

  it('may be of an earlier release, which knew health by frames alone', () => {
    const path = settledRun()
    const before = others(path)
    asEarlier(path)
    expect(others(path)).toEqual(before)
    foldFrames(path)
    expect(others(path)).toEqual(before)
  })
})
