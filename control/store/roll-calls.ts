/** Roll calls in the store: the latest of each machine, and those kept with a run. */
import type { CalledMachine } from '../../core/fleet/roll-call'
import type { Store } from './open'
import { fromStore } from './from-store'

/** A machine's answer, with what was known of it then. */
export interface StoredRollCall {
  runId: number | undefined
  machineId: string
  at: number
  called: CalledMachine
}

export type RollCallStore = ReturnType<typeof rollCallStore>

export function rollCallStore(store: Store) {
  const insert = store.prepare(`
    INSERT INTO roll_calls (run_id, machine_id, at, report)
    VALUES (@runId, @machineId, @at, @report)
  `)
  const ofRun = store.prepare<[number], Row>(`
    SELECT *
    FROM roll_calls
    WHERE id IN (SELECT MAX(id) FROM roll_calls WHERE run_id = ? GROUP BY machine_id)
    ORDER BY id
  `)
  const latest = store.prepare<[string], Row>('SELECT * FROM roll_calls WHERE machine_id = ? ORDER BY id DESC LIMIT 1')
  return {
    keep: ({ runId, machineId, at, called }: StoredRollCall) => {
      insert.run({ runId: runId ?? null, machineId, at: Math.round(at), report: JSON.stringify(called) })
    },
    /** The last answer of each machine to a run's roll call. */
    ofRun: (runId: number) => ofRun.all(runId).map(stored),
    latest: (machineId: string) => {
      const row = latest.get(machineId)
      return row && stored(row)
    },
  }
}

interface Row {
  run_id: number | null
  machine_id: string
  at: number
  report: string
}

function stored(row: Row): StoredRollCall {
  const { report, ...called } = fromStore<CalledMachine>(row.report)
  return {
    runId: row.run_id ?? undefined,
    machineId: row.machine_id,
    at: row.at,
    called: { ...called, report: report && withoutKind(report) },
  }
}

/** Releases up to 0.6 kept the kind of the message with it. */
function withoutKind({ kind: _, ...report }: NonNullable<CalledMachine['report']> & { kind?: string }) {
  return report
}
