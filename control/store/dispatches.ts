/** What is sent out of runs: hooks and mails that wait, were sent, or were given up. Moments are ms since 1970. */
import type { Tells } from '../../core/dispatch/run-event'
import type { Store } from './open'
import { fromStore } from './from-store'

export interface Hook {
  id: number
  name: string
  address: string
  tells: Tells[]
  createdAt: number
}

export interface Dispatch {
  id: number
  /** Left out: mail. */
  hookId?: number
  recipient: string
  runId?: number
  /** In words. */
  about: string
  /** JSON that a hook is sent. */
  content?: string
  writtenAt: number
  attempts: number
  /** Left out: it is not tried any more. */
  nextAt?: number
  sentAt?: number
  trouble?: string
}

export type DispatchStore = ReturnType<typeof dispatchStore>

interface HookRow {
  id: number
  name: string
  address: string
  tells: string
  sealed: Buffer
  created_at: number
}

interface Row {
  id: number
  hook_id: number | null
  recipient: string
  run_id: number | null
  about: string
  content: string | null
  written_at: number
  attempts: number
  next_at: number | null
  sent_at: number | null
  trouble: string | null
}

/** This many are shown. */
const MOST_SHOWN = 200

export function dispatchStore(store: Store) {
  return { ...hookTable(store), ...dispatchTable(store) }
}

function hookTable(store: Store) {
  const all = store.prepare<[], HookRow>('SELECT * FROM hooks ORDER BY name')
  const add = store.prepare(`
    INSERT INTO hooks (name, address, tells, sealed, created_at)
    VALUES (@name, @address, @tells, @sealed, @createdAt)
  `)
  const drop = store.prepare<[number]>('DELETE FROM hooks WHERE id = ?')
  return {
    hooks: (): (Hook & { sealed: Buffer })[] =>
      all.all().map(({ tells, created_at, ...row }) =>
        ({ ...row, tells: fromStore<Tells[]>(tells), createdAt: created_at })),
    addHook: ({ tells, createdAt, ...hook }: Omit<Hook, 'id'>, sealed: Buffer): number =>
      Number(
        add.run({ ...hook, tells: JSON.stringify(tells), sealed, createdAt: Math.round(createdAt) }).lastInsertRowid,
      ),
    /** What waits for it goes with it. @returns whether it was there */
    removeHook: (id: number): boolean => drop.run(id).changes === 1,
  }
}

function dispatchTable(store: Store) {
  const write = store.prepare(`
    INSERT INTO dispatches (key, hook_id, recipient, run_id, about, content, written_at, next_at)
    VALUES (@key, @hookId, @recipient, @runId, @about, @content, @at, @at)
    ON CONFLICT (key)
    DO NOTHING
  `)
  const latest = store.prepare<[], Row>(`SELECT * FROM dispatches ORDER BY id DESC LIMIT ${MOST_SHOWN}`)
  const due = store.prepare<[number], Row>('SELECT * FROM dispatches WHERE next_at <= ? ORDER BY next_at, id')
  const next = store.prepare<[], { at: number | null }>('SELECT min(next_at) AS at FROM dispatches')
  const sent = store.prepare(`
    UPDATE dispatches
    SET attempts = attempts + 1, next_at = NULL, sent_at = @at, trouble = NULL
    WHERE id = @id
  `)
  const failed = store.prepare(`
    UPDATE dispatches
    SET attempts = attempts + 1, next_at = @nextAt, trouble = @trouble
    WHERE id = @id
  `)
  const again = store.prepare('UPDATE dispatches SET next_at = @at WHERE id = @id AND sent_at IS NULL')
  return {
    /** @param key what has the same is written once @returns whether it was new */
    write: (key: string, of: Pick<Dispatch, 'hookId' | 'recipient' | 'runId' | 'about' | 'content'>, at: number): boolean =>
      write.run({ hookId: null, runId: null, content: null, ...of, key, at: Math.round(at) }).changes === 1,
    /** The newest first. */
    latest: (): Dispatch[] => latest.all().map(dispatchOf),
    due: (now: number): Dispatch[] => due.all(Math.round(now)).map(dispatchOf),
    /** When the next one is to be sent. */
    nextAt: (): number | undefined => next.get()?.at ?? undefined,
    sent: (id: number, at: number) => void sent.run({ id, at: Math.round(at) }),
    /** @param nextAt left out: it is given up */
    failed: (id: number, trouble: string, nextAt?: number) =>
      void failed.run({ id, trouble, nextAt: nextAt === undefined ? null : Math.round(nextAt) }),
    /** @returns whether it was there, and not sent */
    again: (id: number, at: number): boolean => again.run({ id, at: Math.round(at) }).changes === 1,
  }
}

function dispatchOf(row: Row): Dispatch {
  const { id, recipient, about, attempts } = row
  return {
    id,
    recipient,
    about,
    attempts,
    writtenAt: row.written_at,
    ...(row.hook_id === null ? {} : { hookId: row.hook_id }),
    ...(row.run_id === null ? {} : { runId: row.run_id }),
    ...(row.content === null ? {} : { content: row.content }),
    ...(row.next_at === null ? {} : { nextAt: row.next_at }),
    ...(row.sent_at === null ? {} : { sentAt: row.sent_at }),
    ...(row.trouble === null ? {} : { trouble: row.trouble }),
  }
}
