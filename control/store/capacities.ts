/** Capacities, and batches of calibrations, in the store. */
import type { Capacity } from '../../core/capacity/capacity'
import type { CalibrationBatch } from '../../core/capacity/batch'
import type { CalibrationEvidence } from '../../core/capacity/calibration'
import type { Store } from './open'
import { fromStore } from './from-store'

export type CapacityStore = ReturnType<typeof capacityStore>

// eslint-disable-next-line max-lines-per-function -- the statements of a table stand with what they are asked for
export function capacityStore(store: Store) {
  const put = store.prepare(`
    INSERT INTO capacities (id, journey_id, network, provider, machine_type, at, document, evidence)
    VALUES (@id, @journeyId, @network, @provider, @machineType, @at, @document, @evidence)
    ON CONFLICT (id)
    DO UPDATE SET document = excluded.document
  `)
  const all = store.prepare<[], { document: string }>('SELECT document FROM capacities ORDER BY at DESC, id')
  const byId = store.prepare<[string], { document: string, evidence: string | null }>(
    'SELECT document, evidence FROM capacities WHERE id = ?',
  )
  const drop = store.prepare('DELETE FROM capacities WHERE id = ?')
  const insertBatch = store.prepare('INSERT INTO calibrations (created_at, document) VALUES (@at, @document)')
  const setBatch = store.prepare('UPDATE calibrations SET document = @document, ended_at = @endedAt WHERE id = @id')
  const batches = store.prepare<[number], BatchRow>(`
    SELECT id, created_at, ended_at, document
    FROM calibrations
    ORDER BY id DESC
    LIMIT ?
  `)
  const batchById = store.prepare<[number], BatchRow>(
    'SELECT id, created_at, ended_at, document FROM calibrations WHERE id = ?',
  )
  const openBatches = store.prepare<[], BatchRow>(`
    SELECT id, created_at, ended_at, document
    FROM calibrations
    WHERE ended_at IS NULL
    ORDER BY id
  `)
  let kept: Capacity[] | undefined
  return {
    /** The newest first. */
    all(): readonly Capacity[] {
      return (kept ??= all.all().map(r => capacityFrom(r.document)))
    },
    capacity(id: string): { capacity: Capacity, evidence: CalibrationEvidence | undefined } | undefined {
      const row = byId.get(id)
      return (
        row && {
          capacity: capacityFrom(row.document),
          evidence: row.evidence === null ? undefined : fromStore<CalibrationEvidence>(row.evidence),
        }
      )
    },
    save(capacity: Capacity, evidence?: CalibrationEvidence) {
      const { id, journeyId, network, provider, machineType, at } = capacity
      put.run({
        id,
        journeyId,
        network,
        provider,
        machineType,
        at: Math.round(at),
        document: JSON.stringify(capacity),
        evidence: evidence ? JSON.stringify(evidence) : null,
      })
      kept = undefined
    },
    drop(id: string) {
      drop.run(id)
      kept = undefined
    },
    createBatch: (batch: Omit<CalibrationBatch, 'id'>): number =>
      Number(insertBatch.run({ at: Math.round(batch.createdAt), document: JSON.stringify(batch) }).lastInsertRowid),
    saveBatch: (batch: CalibrationBatch) => {
      setBatch.run({
        id: batch.id,
        document: JSON.stringify(batch),
        endedAt: batch.endedAt === undefined ? null : Math.round(batch.endedAt),
      })
    },
    batches: (most: number) => batches.all(most).map(batchOf),
    batch: (id: number) => {
      const row = batchById.get(id)
      return row && batchOf(row)
    },
    openBatches: () => openBatches.all().map(batchOf),
  }
}

interface BatchRow {
  id: number
  created_at: number
  ended_at: number | null
  document: string
}

function batchOf(row: BatchRow): CalibrationBatch {
  return { ...fromStore<CalibrationBatch>(row.document), id: row.id }
}

/** Release 0.6 kept null for a signal whose interval has no upper end. */
function capacityFrom(document: string): Capacity {
  const capacity = fromStore<Capacity>(document)
  for (const signal of Object.values(capacity.signals)) if (signal.upper === null) delete signal.upper
  return capacity
}
