/** Who did what, when, from where: added to, never changed. */
import type { TrailEntry } from '../../api/views'
import type { Store } from './open'

/** As it is kept: what the act is in words comes when it is told. */
export type StoredTrailEntry = Omit<TrailEntry, 'says'>

export type TrailStore = ReturnType<typeof trailStore>

export function trailStore(store: Store) {
  const insert = store.prepare(`
    INSERT INTO trail (at, who, bearer, address, act, about, outcome)
    VALUES (@at, @who, @bearer, @address, @act, @about, @outcome)
  `)
  const before = store.prepare<[number, number], StoredTrailEntry>(`
    SELECT *
    FROM trail
    WHERE id < ?
    ORDER BY id DESC
    LIMIT ?
  `)
  return {
    add: (entry: Omit<StoredTrailEntry, 'id'>) => void insert.run({ ...entry, at: Math.round(entry.at) }),
    /** The latest first. @param id only those before it */
    before: (id: number, most: number) => before.all(id, most),
  }
}
