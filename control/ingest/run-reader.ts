/** Reads a run's file for windows, seconds and exports, while it is being written or long after. */
import { figuresOf, type Figures } from '../../core/merge/figures'
import { SeriesSum } from '../../core/merge/series-sum'
import type { RunDocument } from '../../core/plan/document'
import { expectedConnects, type NetworkFigures } from '../../core/plan/achieved'
import { isCounted, seriesOf, type Series } from '../../core/plan/series'
import type { SecondFigures } from '../../core/merge/second-figures'
import { openRunFile } from '../store/open'
import { Pyramid } from './pyramid'
import { readSeconds } from './run-merge'

/** Exact figures of a window, broken down. */
export interface WindowFigures {
  fromS: number
  toS: number
  total: Figures
  /** In the order of the journeys. */
  steps: { step: string, kind: Series['kind'], figures: Figures, byLocation: Record<string, Figures> }[]
  locations: { code: string, figures: Figures }[]
  networks: NetworkFigures[]
}

export function readRun<T>(path: string, read: (run: { window: (fromS: number, toS: number) => Map<number, SeriesSum>, seconds: () => SecondFigures[] }) => T): T {
  const store = openRunFile(path)
  try {
    const fact = store.prepare<[], { value: string }>('SELECT value FROM facts WHERE name = \'mergedUpTo\'').get()
    const pyramid = new Pyramid(store, fact ? Number(fact.value) : -1)
    return read({ window: (fromS, toS) => pyramid.window(fromS, toS), seconds: () => readSeconds(store) })
  }
  finally {
    store.close()
  }
}

/** @param pathMs round trip of the real path per location, as far as it is known */
export function windowFigures(document: RunDocument, sums: ReadonlyMap<number, SeriesSum>, fromS: number, toS: number, pathMs: Readonly<Record<string, number>> = {}): WindowFigures {
  const series = seriesOf(document)
  const total = new SeriesSum()
  const steps = new Map<string, { kind: Series['kind'], whole: SeriesSum, byLocation: Map<string, SeriesSum> }>()
  const locations = new Map<string, SeriesSum>(document.plan.locations.map(l => [l.code, new SeriesSum()]))
  for (const s of series) if (!steps.has(s.stepName)) steps.set(s.stepName, { kind: s.kind, whole: new SeriesSum(), byLocation: new Map() })
  for (const [number, sum] of sums) {
    const of = series[number]!
    const code = document.plan.locations[of.location]!.code
    const step = steps.get(of.stepName)!
    let there = step.byLocation.get(code)
    if (!there) step.byLocation.set(code, there = new SeriesSum())
    for (const into of isCounted(of) ? [total, step.whole, there, locations.get(code)!] : [step.whole, there]) into.add(sum)
  }
  return {
    fromS, toS, total: figuresOf(total),
    steps: [...steps].map(([step, { kind, whole, byLocation }]) => ({ step, kind, figures: figuresOf(whole), byLocation: Object.fromEntries([...byLocation].map(([code, sum]) => [code, figuresOf(sum)])) })),
    locations: [...locations].map(([code, sum]) => ({ code, figures: figuresOf(sum) })),
    networks: expectedConnects(document, sums, pathMs),
  }
}
