/** Takes exchanges out of files of runs, and gives their space back: in a thread of its own, for it takes seconds. */
import { statSync } from 'node:fs'
import { parentPort, workerData } from 'node:worker_threads'
import Database from 'better-sqlite3'

/** Bytes each file became smaller by; a sentence: why it could not be done. */
export type Cleared = Record<string, number | string>

function clear(path: string): number | string {
  try {
    const before = statSync(path).size
    const file = new Database(path, { fileMustExist: true })
    try {
      file.exec('DELETE FROM exemplars; DELETE FROM passes; DELETE FROM leftovers')
      file.exec('VACUUM')
      file.pragma('wal_checkpoint(TRUNCATE)')
    }
    finally {
      file.close()
    }
    return before - statSync(path).size
  }
  catch (error) {
    return (error as Error).message
  }
}

parentPort!.postMessage(
  Object.fromEntries((workerData as { paths: string[] }).paths.map(path => [path, clear(path)])) satisfies Cleared,
)
