/** The merge worker: runs being merged, flushed twice a second, and windows of any run. */
import { histogramLog } from './histogram-log'
import { BrokenSoFar } from '../../core/result/broken-so-far'
import type { TakenLines } from '../../core/elsewhere/results'
import { failuresOf } from '../../core/result/failures'
import { coursesOf, type AddWindow, type Course } from '../../core/result/course'
import { distributionOf } from '../../core/result/distribution'
import { asksMachines, slicesOf, type Dimension, type SliceWish } from '../../core/result/slices'
import type { StaffWish } from '../../core/result/staff'
import { summarise } from '../../core/result/summary'
import { ourCounts } from '../../core/result/three-way'
import type { FromMergeWorker, MergeQuestions, ToMergeWorker } from './worker-messages'
import { findExemplars, keepExemplars } from './exemplars'
import { measuresOf } from './measures'
import { findPasses } from './passes'
import { keepLeftover, listLeftovers, readLeftover } from './leftovers'
import { openRunFile, type Store } from '../store/open'
import { ToldLive } from './told-live'
import { toldSeconds } from './told-seconds'
import { readExemplars, readPasses } from '../../protocol/exemplars'
import { RunMerge } from './run-merge'
import { countsInTurn, readRun, windowFigures, type OpenRun } from './run-reader'
import { sumMachines, sumNoMore } from './summing-machines'
import type { RunDocument } from '../../core/run/document'
import { machineCourse, machineRecord } from '../../core/run/machine-course'
import { seriesByMachine, type RunMachine } from '../../core/run/machine-series'
import { seriesOf } from '../../core/run/series'
import { sumIn, type SeriesSum, type SumOf, type Timing } from '../../core/merge/series-sum'
import { messageOf } from '../../core/values/thrown'
import { port } from '../parent-port'

/** Time between commits, ms: also how long an acknowledgement takes at most. */
const FLUSH_MS = 500
/** Stretches that are told while a run loads: the newest. */
const MOST_STRETCHES = 500
/** Points of a machine's course: as many as a screen is wide. */
const MOST_BINS = 1200
/** Machines are asked about without being asked for while it takes so few frames: half a second's reading. */
const MOST_FRAMES_READ = 10_000

/** So long compiling what has just run takes at most, ms. */
const REST_MS = 100

/** The answer comes when what was told is safe, or done. */
const LATER = Symbol('later')

interface Merging {
  merge: RunMerge
  document: RunDocument
  broken: BrokenSoFar | undefined
  /** Of a run that is told from elsewhere, once something was. */
  live?: ToldLive
  /** Those who wait until what they told is safe. */
  waiting: { id: number, taken: TakenLines }[]
}

const runs = new Map<number, Merging>()
const tell = (message: FromMergeWorker) => port.postMessage(message)

/**
 * What a flush that failed had begun is not known any more: the run is given up here, and opened again from what its
 * file holds.
 */
function flush(runId: number, run: Merging): void {
  const { merge } = run
  try {
    cutLive(runId, run)
    const { acks, seconds } = merge.flush()
    answerWaiting(run)
    if (acks.length > 0 || seconds.length > 0)
      tell({ kind: 'flushed', runId, acks, seconds, finished: finishedOf(merge) })
  }
  catch (error) {
    runs.delete(runId)
    merge.close()
    const sentence = `What was measured could not be written down: ${messageOf(error)}`
    for (const { id } of run.waiting) tell({ kind: 'trouble', id, sentence })
    tell({ kind: 'broken', runId, sentence })
  }
}

/** What they told is written down. */
function answerWaiting({ waiting }: Merging): void {
  for (const { id, taken } of waiting.splice(0)) tell({ kind: 'answer', id, result: taken })
}

/** What was told from elsewhere since the last flush goes the way of frames. */
function cutLive(runId: number, run: Merging, last = false): void {
  const { live, merge } = run
  if (!live) return
  const grown = live.cut(Date.now(), last)
  const kept = live.takeKept()
  if (kept.length > 0)
    inFile(merge.path, store =>
      store.transaction(() => {
        for (const { sender, record } of kept)
          keepExemplars(store, sender, {
            incarnation: INCARNATION,
            batch: ++keptBatches,
            records: [record],
            passes: [],
            dropped: 0,
          })
      })(),
    )
  if (!grown) return
  run.document = grown
  tell({ kind: 'grown', runId, document: grown })
}

/** Another one with every process: what was cut before is not cut again. */
const INCARNATION = Math.floor(Date.now() / 1000)
let keptBatches = 0

function inFile<T>(path: string, act: (store: Store) => T): T {
  const store = openRunFile(path)
  try {
    return act(store)
  }
  finally {
    store.close()
  }
}

/**
 * A run that is being merged is read from what is in hand: with a generator that is not heard, its newest seconds are
 * not in the file yet.
 */
function reading<T>(path: string, read: (run: OpenRun) => T): T {
  const merging = [...runs.values()].find(r => r.merge.path === path)
  return merging ? read(merging.merge) : readRun(path, read)
}

/** The series that are asked for, and what adds them: machines are told apart only where they are asked about. */
function asked(run: OpenRun, document: RunDocument, machines: readonly RunMachine[], wish: Partial<SliceWish>) {
  const whole = seriesOf(document)
  const byMachine = asksMachines(wish)
  return {
    byMachine,
    series: byMachine ? seriesByMachine(document, machines) : whole,
    adding: (fromS: number, toS: number) => (into: SumOf, timings?: readonly Timing[]) =>
      byMachine ? run.addMachines(fromS, toS, into, whole.length, timings) : run.addWindow(fromS, toS, into, timings),
  }
}

function finishedOf(merge: RunMerge): number[] {
  return merge.generators.flatMap((_, g) => (merge.finished(g) ? [g] : []))
}

/** What cannot be looked at is told once, and not looked at any more: the merge goes on. */
function lookForBroken(runId: number, { merge, broken }: { merge: RunMerge, broken: BrokenSoFar | undefined }): void {
  try {
    if (broken?.look(merge, merge.finalS))
      tell({
        kind: 'brokenSoFar',
        runId,
        stretches: broken.stretches.slice(-MOST_STRETCHES),
        untilS: broken.untilS,
      })
  }
  catch (error) {
    const run = runs.get(runId)
    if (run) run.broken = undefined
    const sentence = `where objectives were broken is told at the end only: ${messageOf(error)}`
    tell({ kind: 'aside', runId, generator: -1, what: 'other', sentence })
  }
}

setInterval(() => {
  for (const [runId, run] of runs) {
    flush(runId, run)
    // A flush that failed has given it up.
    if (runs.get(runId) === run) lookForBroken(runId, run)
  }
}, FLUSH_MS)

type Handlers = {
  [K in ToMergeWorker['kind']]: (
    message: Extract<ToMergeWorker, { kind: K }>,
  ) => K extends keyof MergeQuestions ? MergeQuestions[K]['answer'] | typeof LATER : unknown
}

const handlers: Handlers = {
  open({ runId, path, document, generators }) {
    runs.get(runId)?.merge.close()
    const merge = new RunMerge(path, document, generators)
    runs.set(runId, {
      merge,
      document,
      waiting: [],
      // A calibration goes past limits on purpose.
      broken: document.calibration || document.claimed ? undefined : new BrokenSoFar(document, seriesOf(document)),
    })
    // A restart may find everything finished: nobody would send another frame.
    tell({ kind: 'flushed', runId, acks: [], seconds: [], finished: finishedOf(merge) })
  },
  frame({ runId, generator, bytes, newest }) {
    const sentence = runs.get(runId)?.merge.take(generator, bytes, newest)
    if (sentence !== undefined) tell({ kind: 'aside', runId, generator, what: 'frame', sentence })
  },
  told({ id, runId, lines }) {
    const run = runs.get(runId)
    if (!run) throw new Error(`run ${runId} is not being merged`)
    run.live ??= new ToldLive(run.merge, lines.startAt, INCARNATION)
    run.waiting.push({ id, taken: run.live.take(lines) })
    return LATER
  },
  exemplars({ runId, path, generator, incarnation, batch, records, passes, dropped }) {
    // Also a run that has just been settled takes the last ones.
    const exchanges = readExemplars(records)
    const whole = readPasses(passes)
    const bad = exchanges.bad + whole.bad
    const good = { records: exchanges.good, passes: whole.good, dropped: dropped + bad }
    inFile(path, store =>
      store.transaction(() => keepExemplars(store, generator, { incarnation, batch, ...good }))(),
    )
    if (bad > 0)
      tell({
        kind: 'aside',
        runId,
        generator,
        what: 'exemplars',
        sentence: `${bad} of ${records.length + passes.length} exemplars are not as agreed: ${exchanges.problem || whole.problem}`,
      })
    tell({ kind: 'exemplarsKept', runId, generator, incarnation, batch })
  },
  machineRecords: ({ path, generators }) =>
    reading(path, (run) => {
      const records = Array.from({ length: generators }, (_, g) => machineRecord(g, run.workerSeconds(g)))
      return records.filter(r => r !== undefined)
    }),
  machineCourse: ({ path, generator, fromS, toS }) =>
    reading(path, run =>
      machineCourse(run.workerSeconds(generator, fromS, toS), { fromS, toS }, MOST_BINS)),
  findPasses: ({ path, wanted }) => inFile(path, store => findPasses(store, wanted)),
  findExemplars: ({ path, wanted }) => inFile(path, store => findExemplars(store, wanted)),
  leftover: ({ path, generator, group, name, content }) =>
    inFile(path, store => keepLeftover(store, generator, group, name, content)),
  leftovers: ({ path }) => inFile(path, listLeftovers),
  readLeftover: ({ path, generator, group, name }) =>
    inFile(path, store => readLeftover(store, generator, group, name)),
  leave({ runId, generator, second }) {
    runs.get(runId)?.merge.leave(generator, second)
  },
  settle({ runId, facts }) {
    const run = runs.get(runId)
    if (!run) throw new Error(`run ${runId} is not being merged`)
    // Also where nobody told of it since this process began, it is as long as it turned out to be.
    if (run.document.claimed) run.live ??= new ToldLive(run.merge, 0, INCARNATION)
    cutLive(runId, run, true)
    const { acks, seconds } = run.merge.settle()
    answerWaiting(run)
    tell({ kind: 'flushed', runId, acks, seconds, finished: [] })
    const summary = summarise(run.merge, run.document, facts)
    run.merge.close()
    runs.delete(runId)
    return summary
  },
  window: ({ path, document, fromS, toS, pathMs }) =>
    reading(path, run => windowFigures(document, run, fromS, toS, pathMs)),
  slices: ({ path, document, machines, fromS, toS, wish }) =>
    reading(path, (run) => {
      const { series, adding } = asked(run, document, machines, wish)
      return slicesOf(document, adding(fromS, toS), wish, series)
    }),
  everySecond: ({ path, document, machines, fromS, toS, wish }) =>
    reading(path, (run) => {
      const { series, adding } = asked(run, document, machines, wish)
      return Array.from({ length: toS - fromS }, (_, i) => ({
        second: fromS + i,
        rows: slicesOf(document, adding(fromS + i, fromS + i + 1), wish, series).rows,
      }))
    }),
  distributions: ({ path, document, machines, of, limitsMs }) =>
    reading(path, run =>
      of.map(({ fromS, toS, only = {} }) => {
        const { series, adding } = asked(run, document, machines, { only })
        return distributionOf(document, adding(fromS, toS), only, limitsMs, series)
      }),
    ),
  courses: ({ path, document, machines, staffs, bins }) =>
    reading(path, (run) => {
      const told = new Map<StaffWish, Course>()
      for (const byMachine of [false, true]) {
        const some = staffs.filter(({ split, only }) => asksMachines({ rows: split === 'machine' ? [split] : [], only }) === byMachine)
        if (some.length === 0) continue
        const { series, adding } = asked(run, document, machines, { rows: byMachine ? ['machine'] : [] })
        const addWindow: AddWindow = (fromS, toS, into, timings) => adding(fromS, toS)(into, timings)
        const courses = coursesOf(document, { addWindow, secondsIn: (...of) => run.seconds(...of) }, some, bins, series)
        some.forEach((staff, i) => told.set(staff, courses[i]!))
      }
      // Each of them is by machine or is not.
      return staffs.map(staff => told.get(staff)!)
    }),
  failures: ({ path, document, machines, fromS, toS, only }) =>
    reading(path, (run) => {
      // By machine where there are several, and few enough frames are read for it.
      const areFew = !run.isFolded && machines.length > 1 && machines.length * (toS - fromS) <= MOST_FRAMES_READ
      const rows: Dimension[] = areFew ? ['machine'] : []
      const { series, adding, byMachine } = asked(run, document, machines, { rows, only })
      const ofAll = countsInTurn(run)
      const counts = (from: number, to: number) => {
        if (!byMachine) return ofAll(from, to)
        const sums = new Map<number, SeriesSum>()
        adding(from, to)(number => sumIn(sums, number))
        return sums
      }
      return failuresOf(document, counts, { fromS, toS }, only, series)
    }),
  sumMachines: ({ path }) => sumMachines(path),
  rest({ id }) {
    sumNoMore()
    setTimeout(() => tell({ kind: 'answer', id, result: undefined }), REST_MS)
    return LATER
  },
  measures: ({ path, document, wanted }) => reading(path, run => measuresOf(document, run, wanted)),
  requestCounts: ({ path, document }) =>
    reading(path, run => ourCounts(document, run.counts(0, Number.MAX_SAFE_INTEGER))),
  seconds: ({ path, wish, machines }) => reading(path, run => toldSeconds(run, wish, machines)),
  histogramLog: ({ path, document, startAt }) =>
    reading(path, (run) => {
      const seconds = run.seconds()
      const endS = (seconds[seconds.length - 1]?.second ?? -1) + 1
      return histogramLog(document, (from, to) => run.window(from, to), endS, startAt)
    }),
}

port.on('message', (message: ToMergeWorker) => {
  const id = 'id' in message ? message.id : undefined
  try {
    // A handler and its message are of the same kind, which the compiler does not see.
    const result = (handlers[message.kind] as (m: ToMergeWorker) => unknown)(message)
    if (id !== undefined && result !== LATER) tell({ kind: 'answer', id, result })
  }
  catch (error) {
    const sentence = messageOf(error)
    if (id !== undefined) return tell({ kind: 'trouble', id, sentence })
    // Nobody waits for an answer: this input is set aside, and the next is read.
    const { runId, generator } = message as { runId?: number, generator?: number }
    if (message.kind === 'open')
      tell({ kind: 'broken', runId: message.runId, sentence: `Its file could not be opened: ${sentence}` })
    else
      tell({
        kind: 'aside',
        runId: runId ?? -1,
        generator: generator ?? -1,
        what: 'other',
        sentence: `${message.kind}: ${sentence}`,
      })
  }
})
