/** The merge worker: runs being merged, flushed twice a second, and windows of any run. */
import { parentPort } from 'node:worker_threads'
import { histogramLog } from '../reports/histogram-log'
import { summarise } from '../run/summary'
import type { FromMergeWorker, ToMergeWorker } from './ingest'
import { findExemplars, keepExemplars } from './exemplars'
import { keepLeftover, listLeftovers, readLeftover } from './leftovers'
import { openRunFile, type Store } from '../store/open'
import { RunMerge } from './run-merge'
import { readRun, windowFigures } from './run-reader'
import type { RunDocument } from '../../core/plan/document'

/** Time between commits, ms: also how long an acknowledgement takes at most. */
const FLUSH_MS = 500

const port = parentPort!
const runs = new Map<number, { merge: RunMerge, document: RunDocument }>()
const tell = (message: FromMergeWorker) => port.postMessage(message)

function flush(runId: number, merge: RunMerge): void {
  const { acks, seconds } = merge.flush()
  if (acks.length > 0 || seconds.length > 0) tell({ kind: 'flushed', runId, acks, seconds, finished: finishedOf(merge) })
}

function inFile<T>(path: string, act: (store: Store) => T): T {
  const store = openRunFile(path)
  try { return act(store) }
  finally { store.close() }
}

function finishedOf(merge: RunMerge): number[] {
  return merge.generators.flatMap((_, g) => merge.finished(g) ? [g] : [])
}

setInterval(() => {
  for (const [runId, { merge }] of runs) flush(runId, merge)
}, FLUSH_MS)

const handlers: { [K in ToMergeWorker['kind']]: (message: Extract<ToMergeWorker, { kind: K }>) => unknown } = {
  open({ runId, path, document, generators }) {
    const merge = new RunMerge(path, document, generators)
    runs.set(runId, { merge, document })
    // A restart may find everything finished: nobody would send another frame.
    tell({ kind: 'flushed', runId, acks: [], seconds: [], finished: finishedOf(merge) })
  },
  frame({ runId, generator, bytes }) {
    runs.get(runId)?.merge.take(generator, bytes)
  },
  exemplars({ runId, path, generator, incarnation, batch, records, dropped }) {
    // Also a run that has just been settled takes the last ones.
    inFile(path, store => store.transaction(() => keepExemplars(store, generator, { incarnation, batch, records, dropped }))())
    tell({ kind: 'exemplarsKept', runId, generator, incarnation, batch })
  },
  findExemplars: ({ path, wanted }) => inFile(path, store => findExemplars(store, wanted)),
  leftover: ({ path, generator, group, name, content }) => inFile(path, store => keepLeftover(store, generator, group, name, content)),
  leftovers: ({ path }) => inFile(path, listLeftovers),
  readLeftover: ({ path, generator, group, name }) => inFile(path, store => readLeftover(store, generator, group, name)),
  leave({ runId, generator }) {
    runs.get(runId)?.merge.leave(generator)
  },
  settle({ runId, facts }) {
    const run = runs.get(runId)
    if (!run) throw new Error(`run ${runId} is not being merged`)
    const { acks, seconds } = run.merge.settle()
    tell({ kind: 'flushed', runId, acks, seconds, finished: [] })
    const summary = summarise(run.merge, run.document, facts)
    run.merge.close()
    runs.delete(runId)
    return summary
  },
  window: ({ path, document, fromS, toS, pathMs }) => readRun(path, run => windowFigures(document, run.window(fromS, toS), fromS, toS, pathMs)),
  seconds: ({ path }) => readRun(path, run => run.seconds()),
  histogramLog: ({ path, document, startAt }) => readRun(path, (run) => {
    const seconds = run.seconds()
    return histogramLog(document, run.window, (seconds[seconds.length - 1]?.second ?? -1) + 1, startAt)
  }),
}

port.on('message', (message: ToMergeWorker) => {
  const id = 'id' in message ? message.id : undefined
  try {
    const result = (handlers[message.kind] as (m: ToMergeWorker) => unknown)(message)
    if (id !== undefined) tell({ kind: 'answer', id, result })
  }
  catch (error) {
    if (id === undefined) throw error
    tell({ kind: 'trouble', id, sentence: (error as Error).message })
  }
})
