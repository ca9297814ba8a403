/** Single facts kept by name. */
import type { Store } from './open'

export type FactStore = ReturnType<typeof factStore>

export function factStore(store: Store) {
  const get = store.prepare<[string], { value: string }>('SELECT value FROM facts WHERE name = ?')
  const put = store.prepare(`
    INSERT INTO facts (name, value)
    VALUES (@name, @value)
    ON CONFLICT (name)
    DO UPDATE SET value = excluded.value
  `)
  const drop = store.prepare<[string]>('DELETE FROM facts WHERE name = ?')
  return {
    get: (name: string) => get.get(name)?.value,
    set: (name: string, value: string) => {
      put.run({ name, value })
    },
    drop: (name: string) => {
      drop.run(name)
    },
  }
}
