/**
 * `window`: figures of any window of an hour of 20 generators: 4 locations, 12 steps, 8 pairs of group and network.
 * Against adding up the same seconds one by one, from the same file.
 */
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Pyramid } from '../control/ingest/pyramid'
import { countsInTurn, readRun } from '../control/ingest/run-reader'
import { openRunFile } from '../control/store/open'
import { SeriesSum } from '../core/merge/series-sum'
import { seededRandom } from '../core/random/seeded'
import { failuresOf } from '../core/result/failures'
import { slicesOf, type SliceWish } from '../core/result/slices'
import type { RunDocument } from '../core/run/document'
import { seriesOf } from '../core/run/series'
import { benchDocument, step } from './document'
import { median, tell } from './measure'

const LOCATIONS = ['AAA', 'BBB', 'CCC', 'DDD']
const GROUPS = ['A', 'B', 'C', 'D']
const STEPS = 12
/** Samples of a series in a second. */
const SAMPLES = 3
const FAILING = 0.01
const WISHES: SliceWish[] = [{ rows: ['step', 'location'] }, { rows: ['group', 'step'] }, { rows: ['network', 'group'] }]

function hourDocument(): RunDocument {
  const document = benchDocument('127.0.0.1:1', Array.from({ length: STEPS }, (_, i) => step({ name: `step ${i}` })))
  const [group] = document.plan.groups
  return {
    ...document,
    plan: {
      ...document.plan,
      groups: GROUPS.map(letter => ({ ...group!, letter, name: letter })),
      locations: LOCATIONS.map(code => ({ ...document.plan.locations[0]!, code })),
      placement: Object.fromEntries(
        GROUPS.map(letter => [letter, { AAA: 2500, BBB: 2500, CCC: 2500, DDD: 'rest' as const }]),
      ),
      // Half of everybody has a network added: two networks in each of four groups.
      networks: Object.fromEntries(
        GROUPS.map(letter => [letter, Object.fromEntries(LOCATIONS.map(code => [code, { line: 5000 }]))]),
      ),
    },
  }
}

export function benchWindow(quick: boolean): void {
  const lengthS = quick ? 300 : 3600
  const document = hourDocument()
  const series = seriesOf(document)
  const folder = mkdtempSync(join(tmpdir(), 'vornak-bench-'))
  const path = join(folder, 'run.db')
  const random = seededRandom(5)
  const store = openRunFile(path)
  const pyramid = new Pyramid(store, -1)
  const keep = store.prepare('INSERT INTO facts (name, value) VALUES (\'mergedUpTo\', ?)')
  const write = store.transaction((fromS: number, toS: number) => {
    for (let second = fromS; second < toS; second++)
      pyramid.write(second, new Map([...series.keys()].map(number => [number, secondOf(random)])))
  })
  for (let at = 0; at < lengthS; at += 60) write(at, Math.min(lengthS, at + 60))
  keep.run(String(lengthS - 1))
  store.close()

  const windows = Array.from({ length: quick ? 3 : 12 }, () => {
    const [a, b] = [Math.floor(random() * lengthS), Math.floor(random() * lengthS)]
    return { fromS: Math.min(a, b), toS: Math.max(a, b) + 1 }
  })
  const timed = (work: () => unknown) => {
    const at = performance.now()
    work()
    return performance.now() - at
  }
  const asked = (fromS: number, toS: number, wish: SliceWish) =>
    readRun(path, run => slicesOf(document, into => run.addWindow(fromS, toS, into), wish))
  /** The same second by second. */
  const bySeconds = ({ fromS, toS }: { fromS: number, toS: number }) =>
    readRun(path, run =>
      slicesOf(
        document,
        (into) => {
          for (let second = fromS; second < toS; second++) run.addWindow(second, second + 1, into)
        },
        WISHES[0]!,
      ))
  const part = windows[0]!
  if (asked(part.fromS, part.toS, WISHES[0]!).whole.started !== bySeconds(part).whole.started)
    throw new Error('both must count the same')
  const reference = median([timed(() => bySeconds(part)), timed(() => bySeconds(part))])
  const told = { bench: 'window', unit: 'ms', reference }
  const size = `${series.length} series, ${lengthS} s`
  const whole = median(WISHES.map(wish => timed(() => asked(0, lengthS, wish))))
  tell({ ...told, case: `slice of the whole, ${size}`, value: whole, ratio: reference / whole, goal: '≤ 100 ms' })
  const any = windows.flatMap(w => WISHES.map(wish => timed(() => asked(w.fromS, w.toS, wish))))
  tell({ ...told, case: `slice of any window, ${size}`, value: median(any), ratio: reference / median(any), goal: '≤ 100 ms' })
  const worst = Math.max(...any)
  tell({ ...told, case: `the slowest of ${any.length}, ${size}`, value: worst, ratio: reference / worst, goal: '≤ 100 ms' })
  const failing = timed(() => readRun(path, run => failuresOf(document, countsInTurn(run), { fromS: 0, toS: lengthS })))
  tell({ ...told, case: `failures of the whole, ${size}`, value: failing, ratio: reference / failing, goal: '≤ 1,000 ms' })
  rmSync(folder, { recursive: true })
}

function secondOf(random: () => number): SeriesSum {
  const sum = new SeriesSum()
  for (let i = 0; i < SAMPLES; i++) {
    sum.started++
    sum.bytes += 800
    const us = 40_000 * Math.exp(random() * 2)
    if (random() < FAILING) {
      sum.failures[Math.floor(random() * 3)]!++
      sum.timings.failed.record(us)
      continue
    }
    sum.right++
    sum.timings.right.record(us)
    sum.timings.intended.record(us * 1.1)
    sum.timings.firstByte.record(us * 0.8)
    if (random() < 0.1) sum.timings.connect.record(us * 0.1)
  }
  return sum
}
