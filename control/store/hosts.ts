/** Private sites, keys, pinned host keys, tries and commands in the store. */
import type { HostTry, Site } from '../../core/fleet/site'
import type { Store } from './open'
import { fromStore } from './from-store'

/** What one host said to a command. `code` null: it did not end, and why is in `problem`. */
export interface CommandResult {
  host: string
  code: number | null
  out: string
  err: string
  tookMs: number
  problem?: string
}
export interface HostCommand {
  id: number
  at: number
  command: string
  results: CommandResult[]
}

export type HostStore = ReturnType<typeof hostStore>

// eslint-disable-next-line max-lines-per-function -- the statements of a table stand with what they are asked for
export function hostStore(store: Store) {
  const siteById = store.prepare<[string], { document: string }>('SELECT document FROM sites WHERE id = ?')
  const allSites = store.prepare<[], { document: string }>('SELECT document FROM sites ORDER BY id')
  const putSite = store.prepare(`
    INSERT INTO sites (id, document)
    VALUES (@id, @document)
    ON CONFLICT (id)
    DO UPDATE SET document = excluded.document
  `)
  const dropSite = store.prepare('DELETE FROM sites WHERE id = ?')
  const keyByName = store.prepare<[string], { sealed: Buffer }>('SELECT sealed FROM ssh_keys WHERE name = ?')
  const allKeys = store.prepare<[], { name: string, fingerprint: string }>(
    'SELECT name, fingerprint FROM ssh_keys ORDER BY name',
  )
  const putKey = store.prepare(`
    INSERT INTO ssh_keys (name, fingerprint, sealed)
    VALUES (@name, @fingerprint, @sealed)
    ON CONFLICT (name)
    DO UPDATE SET fingerprint = excluded.fingerprint, sealed = excluded.sealed
  `)
  const dropKey = store.prepare('DELETE FROM ssh_keys WHERE name = ?')
  const hostKey = store.prepare<[string, number], { fingerprint: string }>(
    'SELECT fingerprint FROM host_keys WHERE address = ? AND port = ?',
  )
  const pin = store.prepare(`
    INSERT INTO host_keys (address, port, fingerprint, seen_at)
    VALUES (@address, @port, @fingerprint, @at)
    ON CONFLICT (address, port)
    DO UPDATE SET fingerprint = excluded.fingerprint, seen_at = excluded.seen_at
  `)
  const unpin = store.prepare('DELETE FROM host_keys WHERE address = ? AND port = ?')
  const lastTry = store.prepare<[string], { document: string }>('SELECT document FROM host_tries WHERE host = ?')
  const putTry = store.prepare(`
    INSERT INTO host_tries (host, tried_at, document)
    VALUES (@host, @at, @document)
    ON CONFLICT (host)
    DO UPDATE SET tried_at = excluded.tried_at, document = excluded.document
  `)
  const dropTry = store.prepare('DELETE FROM host_tries WHERE host = ?')
  const putCommand = store.prepare(`
    INSERT INTO host_commands (at, command, results)
    VALUES (@at, @command, @results)
  `)
  const commandById = store.prepare<[number], { id: number, at: number, command: string, results: string }>(
    'SELECT id, at, command, results FROM host_commands WHERE id = ?',
  )

  return {
    site: (id: string) => {
      const row = siteById.get(id)
      return row && fromStore<Site>(row.document)
    },
    sites: () => allSites.all().map(r => fromStore<Site>(r.document)),
    saveSite: (site: Site) => {
      putSite.run({ id: site.id, document: JSON.stringify(site) })
    },
    dropSite: (id: string) => {
      dropSite.run(id)
    },
    key: (name: string) => keyByName.get(name)?.sealed,
    keys: () => allKeys.all(),
    saveKey: (name: string, fingerprint: string, sealed: Buffer) => {
      putKey.run({ name, fingerprint, sealed })
    },
    dropKey: (name: string) => {
      dropKey.run(name)
    },
    hostKey: (address: string, port: number) => hostKey.get(address, port)?.fingerprint,
    pin: (address: string, port: number, fingerprint: string, at: number) => {
      pin.run({ address, port, fingerprint, at: Math.round(at) })
    },
    unpin: (address: string, port: number) => {
      unpin.run(address, port)
    },
    /** @param host `site/name` */
    lastTry: (host: string) => {
      const row = lastTry.get(host)
      return row && fromStore<HostTry>(row.document)
    },
    saveTry: (host: string, found: HostTry) => {
      putTry.run({ host, at: Math.round(found.at), document: JSON.stringify(found) })
    },
    forgetTry: (host: string) => {
      dropTry.run(host)
    },
    saveCommand: (at: number, command: string, results: CommandResult[]) =>
      Number(putCommand.run({ at: Math.round(at), command, results: JSON.stringify(results) }).lastInsertRowid),
    command: (id: number): HostCommand | undefined => {
      const row = commandById.get(id)
      return row && { ...row, results: fromStore<CommandResult[]>(row.results) }
    },
  }
}
