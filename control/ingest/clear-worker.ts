/** Takes what is not kept out of files of runs, and gives its space back: in a thread of its own, for it takes time. */
import { workerData } from 'node:worker_threads'
import Database from 'better-sqlite3'
import { bytesOnDisk } from '../store/disk'
import { foldFrames } from './folding'
import { messageOf } from '../../core/values/thrown'
import { port } from '../parent-port'

/** What goes: exchanges and what commands left, or frames, which are folded. */
export type Clearing = 'exchanges' | 'frames'

/** Bytes each file became smaller by; a sentence: why it could not be done. */
export type Cleared = Record<string, number | string>

function clear(path: string, what: Clearing): number | string {
  try {
    const before = bytesOnDisk(path)
    if (what === 'frames') foldFrames(path)
    const file = new Database(path, { fileMustExist: true })
    try {
      if (what === 'exchanges') file.exec('DELETE FROM exemplars; DELETE FROM passes; DELETE FROM leftovers')
      file.exec('VACUUM')
      file.pragma('wal_checkpoint(TRUNCATE)')
    }
    finally {
      file.close()
    }
    return before - bytesOnDisk(path)
  }
  catch (error) {
    return messageOf(error)
  }
}

// The thread that starts this worker gives it that.
const { paths, what } = workerData as { paths: string[], what: Clearing }
port.postMessage(Object.fromEntries(paths.map(path => [path, clear(path, what)])) satisfies Cleared)
