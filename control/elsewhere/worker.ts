/** Looks through files of results, or merges them into a run: in a thread of its own, which ends with it. */
import { workerData } from 'node:worker_threads'
import { beginningOf } from './read-results'
import { mergeResults, type MergedResults, type MergeWish } from './merge-results'
import { recognise, type Recognised } from '../../core/elsewhere/recognise'
import type { Scanned } from '../../core/elsewhere/results'
import { scan, type ScanWish } from './scan'
import { port } from '../parent-port'

export type ElsewhereTask =
  | { kind: 'recognise', path: string }
  | { kind: 'scan', wish: ScanWish }
  | { kind: 'merge', wish: MergeWish, now: number }

export type FromElsewhereWorker =
  | { kind: 'rows', rows: number }
  | { kind: 'done', result: Recognised | Scanned | MergedResults }
  | { kind: 'trouble', sentence: string, remedy: string | undefined }

const tell = (message: FromElsewhereWorker) => port.postMessage(message)
const onRows = (rows: number) => tell({ kind: 'rows', rows })

async function work(task: ElsewhereTask): Promise<Recognised | Scanned | MergedResults> {
  switch (task.kind) {
    case 'recognise':
      return recognise(await beginningOf(task.path))
    case 'scan': {
      const { files, doubles } = await scan(task.wish, onRows)
      return { files, doubles }
    }
    case 'merge':
      return mergeResults(task.wish, task.now, onRows)
  }
}

// The thread that starts this worker gives it its task.
work(workerData as ElsewhereTask).then(
  result => tell({ kind: 'done', result }),
  (error: Error & { remedy?: string }) => tell({ kind: 'trouble', sentence: error.message, remedy: error.remedy }),
)
