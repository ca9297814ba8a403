/**
 * `compare`: two runs of an hour with 60 steps, the rows in view and all rows with their intervals; against the values
 * alone. As the reading worker does it, one run after the other.
 */
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { measuresOf } from '../control/ingest/measures'
import { Pyramid } from '../control/ingest/pyramid'
import { readRun } from '../control/ingest/run-reader'
import { FIRST_ROWS } from '../control/run/comparing'
import { openRunFile } from '../control/store/open'
import { rowsOf } from '../core/compare/rows'
import { SeriesSum } from '../core/merge/series-sum'
import { seededRandom } from '../core/random/seeded'
import type { RunDocument } from '../core/run/document'
import { seriesOf } from '../core/run/series'
import { benchDocument, step } from './document'
import { tell } from './measure'

const STEPS = 60
/** Right answers of a step in a second. */
const SAMPLES = 3
const FIRST_GOAL_MS = 2000
const ALL_GOAL_MS = 15_000

export function benchCompare(quick: boolean): void {
  const lengthS = quick ? 300 : 3600
  const folder = mkdtempSync(join(tmpdir(), 'vornak-bench-'))
  const document = runOfSteps()
  const paths = [1, 2].map(seed => runFile(join(folder, `${seed}.db`), document, lengthS, seed))
  const rows = rowsOf(document)
  const windows = [{ fromS: 0, toS: lengthS }]
  /** @param withSpread of this many rows it is asked how far they may be off */
  const tookMs = (withSpread: number) => {
    const at = performance.now()
    const parts = [{ rows: rows.slice(0, withSpread), spread: true }, { rows: rows.slice(withSpread), spread: false }]
    for (const path of paths) {
      const values = parts.flatMap(({ rows, spread }) =>
        rows.length === 0 ? [] : readRun(path, run => measuresOf(document, run, { rows, windows, spread })))
      if (values.filter(s => s.value !== undefined).length < STEPS) throw new Error('rows were not measured')
    }
    return performance.now() - at
  }
  const valuesMs = tookMs(0)
  const firstMs = tookMs(FIRST_ROWS)
  const allMs = tookMs(rows.length)
  const about = `two runs of ${lengthS} s × ${STEPS} steps, ${rows.length} rows`
  tell({
    bench: 'compare',
    case: `${about}: intervals of the first ${FIRST_ROWS}, against those of all`,
    value: firstMs,
    unit: 'ms',
    reference: allMs,
    ratio: firstMs / allMs,
    goal: `value <= ${FIRST_GOAL_MS} ms`,
  })
  tell({
    bench: 'compare',
    case: `${about}: with intervals, against values alone`,
    value: allMs,
    unit: 'ms',
    reference: valuesMs,
    ratio: allMs / valuesMs,
    goal: `value <= ${ALL_GOAL_MS} ms`,
  })
  rmSync(folder, { recursive: true, force: true })
}

function runOfSteps(): RunDocument {
  const document = benchDocument('127.0.0.1:1', Array.from({ length: STEPS }, (_, i) => step({ name: `step ${i}` })))
  const location = { code: 'AAA', provider: 'bench', region: 'r', machineType: 't', machines: 1 }
  return { ...document, plan: { ...document.plan, locations: [location], placement: { A: { AAA: 'rest' } } } }
}

/** @returns its path */
function runFile(path: string, document: RunDocument, lengthS: number, seed: number): string {
  const random = seededRandom(seed)
  const store = openRunFile(path)
  const pyramid = new Pyramid(store, -1)
  const numbers = [...seriesOf(document).keys()]
  const write = store.transaction((fromS: number, toS: number) => {
    for (let second = fromS; second < toS; second++)
      pyramid.write(second, new Map(numbers.map(n => [n, secondOf(random)])))
  })
  for (let at = 0; at < lengthS; at += 60) write(at, Math.min(lengthS, at + 60))
  store.prepare('INSERT INTO facts (name, value) VALUES (\'mergedUpTo\', ?)').run(String(lengthS - 1))
  store.close()
  return path
}

function secondOf(random: () => number): SeriesSum {
  const sum = new SeriesSum()
  for (let i = 0; i < SAMPLES; i++) {
    sum.started++
    sum.right++
    sum.timings.right.record(40_000 * Math.exp(random() * 2))
  }
  return sum
}
