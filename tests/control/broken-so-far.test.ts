/** Where objectives were broken, told while a run loads: against what its result says of the same run in the end. */
import { join } from 'node:path'
import { brokenRemarks } from '../../core/result/broken-remarks'
import { BrokenSoFar } from '../../core/result/broken-so-far'
import type { BrokenStretch } from '../../core/result/stretches'
import { summarise } from '../../core/result/summary'
import { seriesOf } from '../../core/run/series'
import { RunMerge } from '../../control/ingest/run-merge'
import { ownFolder } from '../build/folder'
import { framesOf, type Sample } from '../build/frames'
import { hill, plan, runDocument } from '../build/plans'
import { runFacts } from '../build/run-facts'

const folder = ownFolder()
const LENGTH_S = 100
const document = runDocument({
  plan: plan({
    groups: [{ letter: 'A', name: 'Lookers', journeyId: 'look', profile: hill(3, 5, 90, 5) }],
    objectives: [{ metric: 'p95', atMost: 800 }],
  }),
})
/** Slow early in the hold, before it has settled, and in its middle: answers are there before 20 s and 60 s. */
const isSlow = (s: number) => (s >= 10 && s < 19) || (s >= 40 && s < 59)
const samples: Sample[] = Array.from({ length: LENGTH_S * 4 }, (_, i) => ({
  series: 0,
  startS: i / 4,
  ms: isSlow(Math.floor(i / 4)) ? 900 + i : 20,
}))
const frames = framesOf(samples, { seconds: LENGTH_S })

it('says what the result will say, each stretch as soon as its seconds are final', () => {
  const merge = new RunMerge(join(folder, 'run.db'), document, [{ machineId: 'm', name: 'G-1', location: 0 }])
  const book = new BrokenSoFar(document, seriesOf(document))
  /** When each stretch was told first, by its begin: run second. */
  const toldAt = new Map<number, number>()
  for (const { bytes, second } of frames) {
    merge.take(0, bytes)
    merge.flush()
    book.look(merge, merge.finalS)
    for (const { fromS } of book.stretches) if (!toldAt.has(fromS)) toldAt.set(fromS, second)
  }
  const told: BrokenStretch[] = structuredClone(book.stretches)
  expect(told.map(s => [s.fromS, s.toS, s.judged])).toEqual([[10, 20, false], [40, 60, true]])
  // Its first window is over at 50; a few seconds later it is looked at.
  expect(toldAt.get(40)).toBeGreaterThanOrEqual(49)
  expect(toldAt.get(40)).toBeLessThanOrEqual(56)
  merge.settle()
  const { broken } = summarise(merge, document, runFacts())
  expect(told).toEqual(broken)
  merge.close()
})

it('begins anew after a restart, from what the file holds, and says the same', () => {
  const path = join(folder, 'again.db')
  const crew = [{ machineId: 'm', name: 'G-1', location: 0 }]
  const before = new RunMerge(path, document, crew)
  for (const { bytes } of frames.slice(0, 70)) before.take(0, bytes)
  before.flush()
  before.close()
  const merge = new RunMerge(path, document, crew)
  const book = new BrokenSoFar(document, seriesOf(document))
  expect(book.look(merge, merge.finalS)).toBe(true)
  expect(book.stretches.map(s => [s.fromS, s.toS])).toEqual([[10, 20], [40, 60]])
  expect(book.look(merge, merge.finalS)).toBe(false)
  merge.close()
})

it('is told once when it begins and once when it is over, with its worst, its limit and the users then', () => {
  const stretch = {
    objective: 0,
    fromS: 40,
    toS: 60,
    worst: 1139,
    worstFromS: 50,
    worstToS: 60,
    users: 3,
    judged: true,
  }
  expect(brokenRemarks([stretch], 60, document)).toEqual([
    {
      event: 'objectiveBroken',
      about: 'p95',
      reason: 'p95: 1.14 s at 3 users from second 40 on; at most 800 ms in holds',
      fromS: 40,
    },
  ])
  expect(brokenRemarks([stretch], 65, document)[1]).toEqual({
    event: 'objectiveMended',
    about: 'p95',
    reason: 'p95: as it should be again from second 60 on; at worst it was 1.14 s',
    fromS: 60,
  })
  expect(brokenRemarks([{ ...stretch, judged: false }], 60, document)[0]!.reason).toMatch(/, not judged there$/)
})
