/** Reads a run's file for windows, seconds and exports, while it is being written or long after. */
import { figuresOf, type Figures } from '../../core/merge/figures'
import { EvidenceBook, type Evidence } from '../../core/objectives/evidence'
import type { LoadThere } from '../../core/objectives/load-there'
import { stepKey } from '../../core/objectives/subject'
import { SeriesSum, sumIn, type SumOf, type Timing } from '../../core/merge/series-sum'
import type { RunDocument } from '../../core/run/document'
import { expectedConnects, type NetworkFigures } from '../../core/merge/network-figures'
import { isCounted, seriesOf, type Series } from '../../core/run/series'
import type { WorkerSecond } from '../../core/run/machine-course'
import type { SecondFigures, WorstSignal } from '../../core/merge/second-figures'
import { secondsAround } from '../../core/result/seconds-around'
import { openRunFile } from '../store/open'
import { Pyramid } from './pyramid'
import { workerSeconds } from './machine-frames'
import { MachineSums } from './machine-sums'
import { readSeconds, slowestSeconds } from './kept-seconds'
import { MachineSeconds } from './machine-seconds'

/** Exact figures of a window, broken down. */
export interface WindowFigures {
  fromS: number
  toS: number
  total: Figures
  /** In the order of the journeys: two may have steps of one name. */
  steps: {
    journeyId: string
    step: string
    kind: Series['kind']
    figures: Figures
    byLocation: Record<string, Figures>
  }[]
  locations: { code: string, figures: Figures }[]
  networks: NetworkFigures[]
  /** Per objective of the plan, in its order: its own figures there, and the load it was about. */
  objectives: Evidence[]
  /** The whole plan's load. */
  load: LoadThere
}

/** A run that can be asked: from its file, or while it is being merged. */
export interface OpenRun {
  window: (fromS: number, toS: number) => Map<number, SeriesSum>
  /** The same without histograms. */
  counts: (fromS: number, toS: number) => Map<number, SeriesSum>
  /** The same, each series into the sum it belongs to; undefined: nowhere. */
  addWindow: (fromS: number, toS: number, into: SumOf, timings?: readonly Timing[]) => void
  /** The same of each machine apart: by {@link machineSeriesNumber}. */
  addMachines: (fromS: number, toS: number, into: SumOf, seriesCount: number, timings?: readonly Timing[]) => void
  /** Nothing was told of a later second, exclusive. */
  endS: number
  /** What its generators sent was folded: machines are told apart in whole stretches alone. */
  isFolded: boolean
  /** What one generator told of itself over run seconds `fromS` (inclusive) to `toS` (exclusive). */
  workerSeconds: (generator: number, fromS?: number, toS?: number) => Iterable<WorkerSecond>
  /** In order; left out: all. */
  seconds: (fromS?: number, toS?: number) => SecondFigures[]
  /** Of each stretch of a given length the slowest second, in order. */
  slowest: (fromS: number, toS: number, stretchS: number) => SecondFigures[]
  /** Each generator at its worst of each minute from one (inclusive) to another (exclusive). */
  worstOfMinutes: (first: number, end: number) => Map<number, WorstSignal[]>
}

/**
 * Counts of one stretch after the other, without histograms: each answer is forgotten with the next, as nothing is made
 * anew for it.
 */
export function countsInTurn(
  run: Pick<OpenRun, 'addWindow'>,
): (fromS: number, toS: number) => ReadonlyMap<number, SeriesSum> {
  const kept = new Map<number, SeriesSum>()
  return (fromS, toS) => {
    for (const sum of kept.values()) sum.clearCounts()
    run.addWindow(fromS, toS, series => sumIn(kept, series), [])
    return kept
  }
}

export function readRun<T>(path: string, read: (run: OpenRun) => T): T {
  const run = openRun(path)
  try {
    return read(run)
  }
  finally {
    run.close()
  }
}

/** For as long as it is read: to be closed. */
export function openRun(path: string): OpenRun & { close: () => void } {
  const store = openRunFile(path)
  const fact = store.prepare<[], { value: string }>('SELECT value FROM facts WHERE name = \'mergedUpTo\'').get()
  const machineSums = new MachineSums(store)
  const mergedUpTo = fact ? Number(fact.value) : -1
  const pyramid = new Pyramid(store, mergedUpTo, 'read')
  return {
    window: (fromS, toS) => pyramid.window(fromS, toS),
    counts: (fromS, toS) => pyramid.counts(fromS, toS),
    addWindow: (...of) => pyramid.addWindow(...of),
    addMachines: (...of) => machineSums.addWindow(...of),
    endS: mergedUpTo + 1,
    isFolded: machineSums.foldedS !== undefined,
    workerSeconds: (...of) => workerSeconds(store, ...of),
    seconds: (fromS, toS) => readSeconds(store, fromS, toS),
    slowest: (...of) => slowestSeconds(store, ...of),
    worstOfMinutes: (...of) => new MachineSeconds(store).worst(...of),
    close: () => void store.close(),
  }
}

/** @param pathMs round trip of the real path per location, as far as it is known */
export function windowFigures(
  document: RunDocument,
  run: OpenRun,
  fromS: number,
  toS: number,
  pathMs: Readonly<Record<string, number>> = {},
): WindowFigures {
  const series = seriesOf(document)
  const sums = run.window(fromS, toS)
  const total = new SeriesSum()
  const steps = new Map<
    string,
    { journeyId: string, step: string, kind: Series['kind'], whole: SeriesSum, byLocation: Map<string, SeriesSum> }
  >()
  const locations = new Map<string, SeriesSum>(document.plan.locations.map(l => [l.code, new SeriesSum()]))
  for (const { journeyId, stepName: step, kind } of series) {
    const key = stepKey(journeyId, step)
    if (!steps.has(key)) steps.set(key, { journeyId, step, kind, whole: new SeriesSum(), byLocation: new Map() })
  }
  for (const [number, sum] of sums) {
    const of = series[number]!
    const code = document.plan.locations[of.location]!.code
    // Made above for each series of the document.
    const step = steps.get(stepKey(of.journeyId, of.stepName))!
    let there = step.byLocation.get(code)
    if (!there) step.byLocation.set(code, (there = new SeriesSum()))
    // Made above for each location of the document.
    for (const into of isCounted(of) ? [total, step.whole, there, locations.get(code)!] : [step.whole, there])
      into.add(sum)
  }
  const evidence = new EvidenceBook(document, series, secondsAround(document, series, run, fromS, toS))
  return {
    fromS,
    toS,
    total: figuresOf(total),
    steps: [...steps.values()].map(({ whole, byLocation, ...of }) => ({
      ...of,
      figures: figuresOf(whole),
      byLocation: Object.fromEntries([...byLocation].map(([code, sum]) => [code, figuresOf(sum)])),
    })),
    locations: [...locations].map(([code, sum]) => ({ code, figures: figuresOf(sum) })),
    networks: expectedConnects(document, sums, pathMs),
    objectives: document.plan.objectives.map(o => evidence.of(o, { fromS, toS }, sums)),
    load: evidence.load({}, { fromS, toS }, sums),
  }
}
