/** What commands left on their generators: their log, and files they were told to bring back. */
import type { Store } from '../store/open'

export interface Leftover {
  generator: number
  group: string
  name: string
  bytes: number
}

export function keepLeftover(store: Store, generator: number, group: string, name: string, content: Uint8Array): void {
  store
    .prepare(`
      INSERT INTO leftovers (generator, group_name, name, content)
      VALUES (?, ?, ?, ?)
      ON CONFLICT
      DO UPDATE SET content = excluded.content
    `)
    .run(generator, group, name, Buffer.from(content))
}

export function listLeftovers(store: Store): Leftover[] {
  return store
    .prepare<[], Leftover>(`
      SELECT generator, group_name AS "group", name, LENGTH(content) AS bytes
      FROM leftovers
      ORDER BY generator, group_name, name
    `)
    .all()
}

export function readLeftover(store: Store, generator: number, group: string, name: string): Uint8Array | undefined {
  return store
    .prepare<[number, string, string], { content: Buffer }>(`
      SELECT content
      FROM leftovers
      WHERE generator = ? AND group_name = ? AND name = ?
    `)
    .get(generator, group, name)?.content
}
