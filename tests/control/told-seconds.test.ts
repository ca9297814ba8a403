/** Seconds as they are asked for: every one with how each generator was, or of stretches the slowest. */
import { join } from 'node:path'
import { RunMerge } from '../../control/ingest/run-merge'
import { readRun } from '../../control/ingest/run-reader'
import { toldSeconds } from '../../control/ingest/told-seconds'
import { toldWorst } from '../../core/capacity/signals'
import { seededRandom } from '../../core/random/seeded'
import { openFrame } from '../../protocol/frame'
import { ownFolder } from '../build/folder'
import { framesOf, type Sample } from '../build/frames'
import { runDocument } from '../build/plans'

const folder = ownFolder()
const document = runDocument()
const GENERATORS = [
  { machineId: 'a', name: 'REY-1', location: 0 },
  { machineId: 'b', name: 'TAV-1', location: 1 },
]
const LENGTH_S = 183
const samples = (first: number, seed: number): Sample[] => {
  const random = seededRandom(seed)
  return Array.from({ length: 1200 }, (_, i) => ({
    series: first,
    startS: (i * (LENGTH_S - 4)) / 1200,
    ms: 20 + random() * 900,
  }))
}
const FRAMES = [0, 1].map(g => framesOf(samples(3 * g, g + 1), { seconds: LENGTH_S - 1, users: 3 + g }))
let count = 0
function run(): { merge: RunMerge, path: string } {
  const path = join(folder, `run-${++count}.db`)
  const merge = new RunMerge(path, document, GENERATORS)
  for (let s = 0; s < LENGTH_S; s++) {
    for (const [g, frames] of FRAMES.entries()) if (frames[s]) merge.take(g, frames[s]!.bytes)
    merge.flush()
  }
  return { merge, path }
}
/** What frames say themselves. */
const ownSignals = (second: number) =>
  FRAMES.flatMap((frames, g) =>
    frames.filter(f => f.second === second).map(f => [g, ...toldWorst(openFrame(f.bytes).top.health)]))

describe('seconds', () => {
  it('have each generator as its frames say, while it is merged and afterwards', () => {
    const { merge, path } = run()
    const live = toldSeconds(merge, { fromS: 0, toS: 1e6 }, 2)
    merge.settle()
    merge.close()
    const settled = readRun(path, of => toldSeconds(of, { fromS: 0, toS: 1e6 }, 2))
    for (const told of [live, settled]) {
      expect(told.map(s => s.second)).toEqual(Array.from({ length: LENGTH_S }, (_, s) => s))
      expect(told.every(s => s.stretchS === undefined)).toBe(true)
      for (const s of told) expect([...s.generators].sort(([a], [b]) => a - b)).toEqual(ownSignals(s.second))
    }
    expect(readRun(path, of => toldSeconds(of, { fromS: 20, toS: 25 }, 2))).toEqual(settled.slice(20, 25))
  })

  it('of stretches are the slowest, with each generator at its worst of the minute', () => {
    const { merge, path } = run()
    merge.settle()
    merge.close()
    const all = readRun(path, of => toldSeconds(of, { fromS: 0, toS: 1e6 }, 2))
    const told = readRun(path, of => toldSeconds(of, { fromS: 0, toS: 1e6, most: 20 }, 2))
    const stretchS = Math.ceil(LENGTH_S / 20)
    expect(told).toHaveLength(Math.ceil(LENGTH_S / stretchS))
    for (const [i, s] of told.entries()) {
      const stretch = all.slice(i * stretchS, (i + 1) * stretchS)
      const slowest = Math.max(...stretch.map(x => x.all[3] ?? -1))
      expect(s.all[3] ?? -1).toBe(slowest)
      expect(s).toMatchObject({ stretchS, generators: [], second: stretch.find(x => x.all[3] === s.all[3])!.second })
    }
    const withMinutes = told.filter(s => s.generatorsOfMinute)
    expect(withMinutes.map(s => Math.floor(s.second / stretchS) * stretchS)).toEqual([0, 60, 120, 180])
    const worst = (g: number, from: number, to: number) =>
      Math.max(...all.slice(from, to).flatMap(s => s.generators.filter(([n]) => n === g).map(([, ratio]) => ratio)))
    for (const [i, { generatorsOfMinute = [] }] of withMinutes.entries()) {
      const ratios = [...generatorsOfMinute].sort(([a], [b]) => a - b).map(([, ratio]) => ratio)
      expect(ratios).toEqual([0, 1].map(g => worst(g, 60 * i, 60 * i + 60)))
    }
  })

  it('of other programs say nothing of generators', () => {
    const { merge } = run()
    expect(toldSeconds(merge, { fromS: 0, toS: 100 }, 0).flatMap(s => s.generators)).toEqual([])
    merge.close()
  })
})
