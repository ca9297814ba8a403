/**
 * The outbox: what must still be done outside, written in the same transaction as the decision and struck off when
 * done. Doing an entry twice must change nothing, for the process can end between the doing and the striking off.
 */
import type { Store } from './open'

export interface Errand {
  id: number
  kind: string
  subject: string
  attempts: number
}

export type OutboxStore = ReturnType<typeof outboxStore>

export function outboxStore(store: Store) {
  const insert = store.prepare('INSERT INTO outbox (kind, subject, written_at) VALUES (@kind, @subject, @at)')
  const all = store.prepare<[], Errand>('SELECT id, kind, subject, attempts FROM outbox ORDER BY id')
  const strike = store.prepare('DELETE FROM outbox WHERE id = ?')
  const trouble = store.prepare('UPDATE outbox SET attempts = attempts + 1, trouble = @trouble WHERE id = @id')
  return {
    write: (kind: string, subject: string, at: number) => {
      insert.run({ kind, subject, at: Math.round(at) })
    },
    waiting: () => all.all(),
    strikeOff: (id: number) => {
      strike.run(id)
    },
    noteTrouble: (id: number, sentence: string) => {
      trouble.run({ id, trouble: sentence })
    },
  }
}
