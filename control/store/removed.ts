/** Takes objects of the library out in a way that can be undone: their rows are kept, and can be put back. */
import type { Store } from './open'
import { fromStore } from './from-store'

/** Which tables an object stands in, and the column its id stands in there; those that refer to others come after. */
const TABLES = {
  target: [
    ['targets', 'id'],
    ['secrets', 'target_id'],
  ],
  journey: [['journey_versions', 'id']],
  feed: [['feeds', 'id']],
  network: [['networks', 'id']],
  client: [['clients', 'id']],
} as const

export type RemovableKind = keyof typeof TABLES

/** So long what was removed can be brought back, ms. */
const KEPT_MS = 7 * 86_400_000

type Row = Record<string, unknown>

export function removedStore(store: Store) {
  const keep = store.prepare(`
    INSERT INTO removed (kind, id, removed_at, rows)
    VALUES (@kind, @id, @at, @rows)
    ON CONFLICT (kind, id)
    DO UPDATE SET removed_at = excluded.removed_at, rows = excluded.rows
  `)
  const kept = store.prepare<[string, string], { rows: string }>('SELECT rows FROM removed WHERE kind = ? AND id = ?')
  const forget = store.prepare('DELETE FROM removed WHERE kind = ? AND id = ?')
  const forgetOld = store.prepare('DELETE FROM removed WHERE removed_at < ?')

  return {
    /** @param now ms since 1970 */
    remove: store.transaction((kind: RemovableKind, id: string, now: number) => {
      forgetOld.run(now - KEPT_MS)
      const tables = TABLES[kind].map(([table, key]) => ({
        table,
        rows: store.prepare<[string], Row>(`SELECT * FROM ${table} WHERE ${key} = ?`).all(id).map(written),
      }))
      keep.run({ kind, id, at: Math.round(now), rows: JSON.stringify(tables) })
      for (const [table, key] of [...TABLES[kind]].reverse())
        store.prepare(`DELETE FROM ${table} WHERE ${key} = ?`).run(id)
    }),
    /** @returns whether it was there to be put back; what has its id now is not written over */
    restore: store.transaction((kind: RemovableKind, id: string): boolean => {
      const found = kept.get(kind, id)
      const [[main, key]] = TABLES[kind]
      if (!found || store.prepare(`SELECT 1 FROM ${main} WHERE ${key} = ?`).get(id)) return false
      for (const { table, rows } of fromStore<{ table: string, rows: Row[] }[]>(found.rows))
        for (const row of rows) {
          const columns = Object.keys(row)
          store
            .prepare(`INSERT INTO ${table} (${columns.join()}) VALUES (${columns.map(c => `@${c}`).join()})`)
            .run(read(row))
        }
      forget.run(kind, id)
      return true
    }),
  }
}

/** Bytes have no JSON of their own. */
function written(row: Row): Row {
  return Object.fromEntries(
    Object.entries(row).map(([k, v]) => [k, Buffer.isBuffer(v) ? { base64: v.toString('base64') } : v]),
  )
}

function read(row: Row): Row {
  return Object.fromEntries(
    Object.entries(row).map(([k, v]) => [
      k,
      // It is written above as an object with that.
      v !== null && typeof v === 'object' ? Buffer.from((v as { base64: string }).base64, 'base64') : v,
    ]),
  )
}
