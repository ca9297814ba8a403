/** Invitations to machines that enrol by themselves: tokens are kept as hashes only. */
import type { Store } from './open'
import { onlyRow } from './only-row'

export interface Invitation {
  hash: string
  location: string
  madeAt: number
  expiresAt: number
  leaseMs: number
  machineId: string | undefined
}

export type InvitationStore = ReturnType<typeof invitationStore>

export function invitationStore(store: Store) {
  const insert = store.prepare(`
    INSERT INTO invitations (token_hash, location, made_at, expires_at, lease_ms)
    VALUES (@hash, @location, @madeAt, @expiresAt, @leaseMs)
  `)
  const byHash = store.prepare<[string], Row>('SELECT * FROM invitations WHERE token_hash = ?')
  const open = store.prepare<[number], Row>(`
    SELECT *
    FROM invitations
    WHERE machine_id IS NULL AND expires_at > ?
    ORDER BY made_at
  `)
  const use = store.prepare(`
    UPDATE invitations
    SET machine_id = @machineId
    WHERE token_hash = @hash AND machine_id IS NULL
  `)
  const withdraw = store.prepare('DELETE FROM invitations WHERE token_hash = ? AND machine_id IS NULL')
  const count = store.prepare<[], { n: number }>('SELECT COUNT(*) AS n FROM invitations WHERE machine_id IS NOT NULL')
  return {
    add: (invitation: Omit<Invitation, 'machineId'>) => {
      insert.run({
        ...invitation,
        madeAt: Math.round(invitation.madeAt),
        expiresAt: Math.round(invitation.expiresAt),
        leaseMs: Math.round(invitation.leaseMs),
      })
    },
    find: (hash: string) => {
      const row = byHash.get(hash)
      return row && invitation(row)
    },
    /** Those nobody has used, and still may. */
    open: (now: number) => open.all(now).map(invitation),
    locations: (now: number) => [...new Set(open.all(now).map(r => r.location))],
    use: (hash: string, machineId: string) => use.run({ hash, machineId }).changes === 1,
    withdraw: (hash: string) => withdraw.run(hash).changes === 1,
    used: () => onlyRow(count.get()).n,
  }
}

interface Row {
  token_hash: string
  location: string
  made_at: number
  expires_at: number
  lease_ms: number
  machine_id: string | null
}

function invitation(row: Row): Invitation {
  return {
    hash: row.token_hash,
    location: row.location,
    madeAt: row.made_at,
    expiresAt: row.expires_at,
    leaseMs: row.lease_ms,
    machineId: row.machine_id ?? undefined,
  }
}
