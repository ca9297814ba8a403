/** Links by which somebody without an account sees one thing. Moments are ms since 1970. */
import type { SharedLinkLine } from '../../api/views'
import type { SharedThing } from '../../core/report/shared'
import type { Store } from './open'
import { fromStore } from './from-store'

/** As it is told of, too: what it carries is kept nowhere. */
export type SharedLink = SharedLinkLine

export type SharedLinkStore = ReturnType<typeof sharedLinkStore>

interface Row {
  id: number
  opens: string
  made_by: string
  created_at: number
  ends_at: number
  ended_at: number | null
  opened: number
  opened_at: number | null
}

export function sharedLinkStore(store: Store) {
  const add = store.prepare(`
    INSERT INTO shared_links (hash, opens, made_by, created_at, ends_at)
    VALUES (@hash, @opens, @madeBy, @createdAt, @endsAt)
  `)
  const all = store.prepare<[], Row>('SELECT * FROM shared_links ORDER BY id DESC')
  const byHash = store.prepare<[string], Row>('SELECT * FROM shared_links WHERE hash = ?')
  const opened = store.prepare('UPDATE shared_links SET opened = opened + 1, opened_at = @at WHERE id = @id')
  const end = store.prepare('UPDATE shared_links SET ended_at = @at WHERE id = @id AND ended_at IS NULL')
  return {
    /** @returns the id */
    add: (hash: string, { opens, ...of }: Pick<SharedLink, 'opens' | 'madeBy' | 'createdAt' | 'endsAt'>): number =>
      Number(add.run({ hash, opens: JSON.stringify(opens), ...of }).lastInsertRowid),
    all: (): SharedLink[] => all.all().map(linkOf),
    byHash(hash: string): SharedLink | undefined {
      const row = byHash.get(hash)
      return row && linkOf(row)
    },
    opened: (id: number, at: number) => void opened.run({ id, at }),
    /** @returns whether it was open */
    end: (id: number, at: number): boolean => end.run({ id, at }).changes === 1,
  }
}

function linkOf({ id, opens, made_by, created_at, ends_at, ended_at, opened, opened_at }: Row): SharedLink {
  return {
    id,
    opens: fromStore<SharedThing>(opens),
    madeBy: made_by,
    createdAt: created_at,
    endsAt: ends_at,
    ...(ended_at === null ? {} : { endedAt: ended_at }),
    opened,
    ...(opened_at === null ? {} : { openedAt: opened_at }),
  }
}
