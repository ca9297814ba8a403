/** Who may come in: people, their sessions and API tokens. Of cookies and tokens only hashes are kept. */
import type { Role } from '../../api/roles'
import type { Store } from './open'
import { onlyRow } from './only-row'

/** Moments are ms since 1970. */
export interface Person {
  id: number
  name: string
  role: Role
  /** Hash in the PHC string format; undefined: signs in elsewhere only. */
  password: string | undefined
  /** Issuer and subject of whom another service vouches for. */
  elsewhere: string | undefined
  createdAt: number
  /** Not let in any more since then. */
  leftAt: number | undefined
}

export interface Session {
  id: number
  personId: number
  createdAt: number
  seenAt: number
  address: string
  browser: string
}

export interface ApiToken {
  id: number
  personId: number
  name: string
  role: Role
  createdAt: number
  endsAt: number
  usedAt: number | undefined
}

/** Of a source of a target's own figures that are sent here. */
export interface SourceToken {
  targetId: string
  /** Name of the source. */
  source: string
  createdAt: number
  usedAt: number | undefined
}

export type PeopleStore = ReturnType<typeof peopleStore>

export function peopleStore(store: Store) {
  return { ...personTable(store), ...sessionTable(store), ...tokenTable(store), ...sourceTokenTable(store) }
}

function personTable(store: Store) {
  const all = store.prepare<[], PersonRow>('SELECT * FROM people ORDER BY name')
  const byId = store.prepare<[number], PersonRow>('SELECT * FROM people WHERE id = ?')
  const byName = store.prepare<[string], PersonRow>('SELECT * FROM people WHERE name = ?')
  const byElsewhere = store.prepare<[string], PersonRow>('SELECT * FROM people WHERE elsewhere = ?')
  const insert = store.prepare(`
    INSERT INTO people (name, role, password, elsewhere, created_at)
    VALUES (@name, @role, @password, @elsewhere, @createdAt)
  `)
  const update = store.prepare(`
    UPDATE people
    SET role = @role, left_at = @leftAt
    WHERE id = @id
  `)
  const setPassword = store.prepare('UPDATE people SET password = @password WHERE id = @id')
  const count = store.prepare<[], { n: number }>(`
    SELECT COUNT(*) AS n
    FROM people
    WHERE role = 'keeper' AND left_at IS NULL
  `)
  return {
    all: () => all.all().map(person),
    find: (id: number) => maybe(byId.get(id), person),
    named: (name: string) => maybe(byName.get(name), person),
    vouchedFor: (elsewhere: string) => maybe(byElsewhere.get(elsewhere), person),
    /** @returns the id */
    add: (of: Omit<Person, 'id' | 'leftAt'>) => Number(insert.run(values({ ...of })).lastInsertRowid),
    save: ({ id, role, leftAt }: Pick<Person, 'id' | 'role' | 'leftAt'>) => void update.run(values({ id, role, leftAt })),
    setPassword: (id: number, password: string) => void setPassword.run({ id, password }),
    /** Keepers who are let in. */
    keepers: () => onlyRow(count.get()).n,
  }
}

function sessionTable(store: Store) {
  const add = store.prepare(`
    INSERT INTO sessions (hash, person_id, created_at, seen_at, address, browser)
    VALUES (@hash, @personId, @createdAt, @seenAt, @address, @browser)
  `)
  const byHash = store.prepare<[string], SessionRow>('SELECT * FROM sessions WHERE hash = ?')
  const ofPerson = store.prepare<[number], SessionRow>(`
    SELECT *
    FROM sessions
    WHERE person_id = ?
    ORDER BY seen_at DESC
  `)
  const seen = store.prepare('UPDATE sessions SET seen_at = @at WHERE id = @id')
  const end = store.prepare('DELETE FROM sessions WHERE id = @id AND person_id = @personId')
  const over = store.prepare('DELETE FROM sessions WHERE seen_at < @seenBefore OR created_at < @createdBefore')
  return {
    /** @returns the id */
    addSession: (hash: string, of: Omit<Session, 'id'>) => Number(add.run(values({ hash, ...of })).lastInsertRowid),
    session: (hash: string) => maybe(byHash.get(hash), session),
    sessionsOf: (personId: number) => ofPerson.all(personId).map(session),
    seen: (id: number, at: number) => void seen.run(values({ id, at })),
    /** @returns whether it was there */
    endSession: (id: number, personId: number) => end.run({ id, personId }).changes === 1,
    forgetSessions: (seenBefore: number, createdBefore: number) => void over.run(values({ seenBefore, createdBefore })),
  }
}

function tokenTable(store: Store) {
  const add = store.prepare(`
    INSERT INTO api_tokens (hash, person_id, name, role, created_at, ends_at)
    VALUES (@hash, @personId, @name, @role, @createdAt, @endsAt)
  `)
  const byHash = store.prepare<[string], TokenRow>('SELECT * FROM api_tokens WHERE hash = ?')
  const ofPerson = store.prepare<[number], TokenRow>('SELECT * FROM api_tokens WHERE person_id = ? ORDER BY created_at')
  const used = store.prepare('UPDATE api_tokens SET used_at = @at WHERE id = @id')
  const end = store.prepare('DELETE FROM api_tokens WHERE id = @id AND person_id = @personId')
  return {
    addToken: (hash: string, of: Omit<ApiToken, 'id' | 'usedAt'>) => void add.run(values({ hash, ...of })),
    token: (hash: string) => maybe(byHash.get(hash), token),
    tokensOf: (personId: number) => ofPerson.all(personId).map(token),
    used: (id: number, at: number) => void used.run(values({ id, at })),
    /** @returns whether it was there */
    endToken: (id: number, personId: number) => end.run({ id, personId }).changes === 1,
  }
}

function sourceTokenTable(store: Store) {
  const put = store.prepare(`
    INSERT INTO source_tokens (target_id, source, hash, created_at)
    VALUES (@targetId, @source, @hash, @createdAt)
    ON CONFLICT (target_id, source)
    DO UPDATE SET hash = excluded.hash, created_at = excluded.created_at, used_at = NULL
  `)
  const byHash = store.prepare<[string], SourceTokenRow>('SELECT * FROM source_tokens WHERE hash = ?')
  const ofTarget = store.prepare<[string], SourceTokenRow>('SELECT * FROM source_tokens WHERE target_id = ? ORDER BY source')
  const used = store.prepare('UPDATE source_tokens SET used_at = @at WHERE target_id = @targetId AND source = @source')
  const end = store.prepare('DELETE FROM source_tokens WHERE target_id = @targetId AND source = @source')
  const endAll = store.prepare<[string]>('DELETE FROM source_tokens WHERE target_id = ?')
  return {
    /** The one before it ends. */
    putSourceToken: (hash: string, of: Omit<SourceToken, 'usedAt'>) => void put.run(values({ hash, ...of })),
    sourceToken: (hash: string) => maybe(byHash.get(hash), sourceToken),
    sourceTokensOf: (targetId: string) => ofTarget.all(targetId).map(sourceToken),
    sourceTokenUsed: (targetId: string, source: string, at: number) => void used.run(values({ targetId, source, at })),
    /** @returns whether it was there */
    endSourceToken: (targetId: string, source: string) => end.run({ targetId, source }).changes === 1,
    endSourceTokens: (targetId: string) => void endAll.run(targetId),
  }
}

/** As SQLite takes them: whole numbers, and NULL for what is not there. */
function values(of: Record<string, string | number | undefined>): Record<string, string | number | null> {
  return Object.fromEntries(
    Object.entries(of).map(([name, value]) => [name, typeof value === 'number' ? Math.round(value) : (value ?? null)]),
  )
}

interface PersonRow {
  id: number
  name: string
  role: Role
  password: string | null
  elsewhere: string | null
  created_at: number
  left_at: number | null
}

interface SessionRow {
  id: number
  person_id: number
  created_at: number
  seen_at: number
  address: string
  browser: string
}

interface TokenRow {
  id: number
  person_id: number
  name: string
  role: Role
  created_at: number
  ends_at: number
  used_at: number | null
}
interface SourceTokenRow {
  target_id: string
  source: string
  created_at: number
  used_at: number | null
}

const maybe = <Row, T>(row: Row | undefined, read: (row: Row) => T): T | undefined => row && read(row)

const person = (row: PersonRow): Person => ({
  id: row.id,
  name: row.name,
  role: row.role,
  password: row.password ?? undefined,
  elsewhere: row.elsewhere ?? undefined,
  createdAt: row.created_at,
  leftAt: row.left_at ?? undefined,
})

const session = (row: SessionRow): Session => ({
  id: row.id,
  personId: row.person_id,
  createdAt: row.created_at,
  seenAt: row.seen_at,
  address: row.address,
  browser: row.browser,
})

const sourceToken = (row: SourceTokenRow): SourceToken => ({
  targetId: row.target_id,
  source: row.source,
  createdAt: row.created_at,
  usedAt: row.used_at ?? undefined,
})

const token = (row: TokenRow): ApiToken => ({
  id: row.id,
  personId: row.person_id,
  name: row.name,
  role: row.role,
  createdAt: row.created_at,
  endsAt: row.ends_at,
  usedAt: row.used_at ?? undefined,
})
