/** Accounts at cloud providers in the store; their keys are sealed. */
import type { Store } from './open'
import { fromStore } from './from-store'

/** What may be shown of an account. `id` is what plans name it by. */
export interface ProviderAccount {
  id: string
  name: string
  address: string
  ownEnd: 'natively' | 'by powering off' | 'not'
}

export type AccountStore = ReturnType<typeof accountStore>

export function accountStore(store: Store) {
  const all = store.prepare<[], { document: string, sealed: Buffer }>(
    'SELECT document, sealed FROM accounts ORDER BY id',
  )
  const put = store.prepare(`
    INSERT INTO accounts (id, document, sealed)
    VALUES (@id, @document, @sealed)
    ON CONFLICT (id)
    DO UPDATE SET document = excluded.document, sealed = excluded.sealed
  `)
  const drop = store.prepare('DELETE FROM accounts WHERE id = ?')
  return {
    all: () => all.all().map(r => ({ account: fromStore<ProviderAccount>(r.document), sealed: r.sealed })),
    save: (account: ProviderAccount, sealed: Buffer) => {
      put.run({ id: account.id, document: JSON.stringify(account), sealed })
    },
    drop: (id: string) => {
      drop.run(id)
    },
  }
}
