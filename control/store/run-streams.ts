/** Programs elsewhere that tell of a run while they measure. Moments are ms since 1970. */
import type { Store } from './open'

export interface RunStream {
  runId: number
  /** Its number among those who tell of the run. */
  sender: number
  name: string
  createdAt: number
  heardAt?: number
  /** Lines that were taken, and that could not be read. */
  taken: number
  faulty: number
  /** It has said its last word. */
  endedAt?: number
}

export type RunStreamStore = ReturnType<typeof runStreamStore>

interface Row {
  run_id: number
  sender: number
  name: string
  created_at: number
  heard_at: number | null
  taken: number
  faulty: number
  ended_at: number | null
}

export function runStreamStore(store: Store) {
  const add = store.prepare(`
    INSERT INTO run_streams (run_id, sender, name, hash, created_at)
    VALUES (@runId, @sender, @name, @hash, @at)
  `)
  const byHash = store.prepare<[string], Row>('SELECT * FROM run_streams WHERE hash = ?')
  const ofRun = store.prepare<[number], Row>('SELECT * FROM run_streams WHERE run_id = ? ORDER BY sender')
  const heard = store.prepare(`
    UPDATE run_streams
    SET heard_at = @at, taken = taken + @taken, faulty = faulty + @faulty
    WHERE run_id = @runId AND sender = @sender
  `)
  const end = store.prepare(`
    UPDATE run_streams SET ended_at = @at WHERE run_id = @runId AND sender = @sender AND ended_at IS NULL
  `)
  return {
    add: (of: { runId: number, sender: number, name: string, hash: string, at: number }) => void add.run(of),
    byHash(hash: string): RunStream | undefined {
      const row = byHash.get(hash)
      return row && streamOf(row)
    },
    ofRun: (runId: number): RunStream[] => ofRun.all(runId).map(streamOf),
    heard: (of: { runId: number, sender: number, at: number, taken: number, faulty: number }) => void heard.run(of),
    end: (of: { runId: number, sender: number, at: number }) => void end.run(of),
  }
}

function streamOf({ run_id, sender, name, created_at, heard_at, taken, faulty, ended_at }: Row): RunStream {
  return {
    runId: run_id,
    sender,
    name,
    createdAt: created_at,
    ...(heard_at === null ? {} : { heardAt: heard_at }),
    taken,
    faulty,
    ...(ended_at === null ? {} : { endedAt: ended_at }),
  }
}
