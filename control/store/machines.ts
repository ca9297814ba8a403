/** Machines, their changes and their enrolments in the store. */
import type { HostFacts } from '../../protocol/messages'
import type { MachineState } from '../fleet/machine-life'
import type { Store } from './open'

export interface Machine {
  id: string
  runId: number
  provider: string
  region: string
  /** Location code. */
  location: string
  /** Place among the machines of its location, from 0. */
  place: number
  /** “REY-1”: what people call it. */
  name: string
  type: string
  state: MachineState
  since: number
  ref: string | undefined
  idempotencyKey: string
  askedAt: number
  allocatedAt: number | undefined
  goneAt: number | undefined
  leaseEndsAt: number
  clockMs: number | undefined
  facts: HostFacts | undefined
}

export interface MachineChange { at: number, from: MachineState, to: MachineState, event: string, reason: string }

export interface Enrolment { machineId: string, expiresAt: number, usedAt: number | undefined, publicKey: string | undefined }

export type MachineStore = ReturnType<typeof machineStore>

export function machineStore(store: Store) {
  const insert = store.prepare(`
    INSERT INTO machines (id, run_id, provider, region, location, place, name, type, state, since, idempotency_key, asked_at, lease_ends_at)
    VALUES (@id, @runId, @provider, @region, @location, @place, @name, @type, 'asked', @askedAt, @idempotencyKey, @askedAt, @leaseEndsAt)`)
  const byId = store.prepare<[string], MachineRow>('SELECT * FROM machines WHERE id = ?')
  const ofRun = store.prepare<[number], MachineRow>('SELECT * FROM machines WHERE run_id = ? ORDER BY location, place')
  const out = store.prepare<[], MachineRow>('SELECT * FROM machines WHERE gone_at IS NULL ORDER BY location, place')
  const since = store.prepare<[number], MachineRow>('SELECT * FROM machines WHERE gone_at IS NULL OR gone_at >= ? ORDER BY asked_at')
  const setState = store.prepare('UPDATE machines SET state = @to, since = @at WHERE id = @id')
  const setRef = store.prepare('UPDATE machines SET ref = @ref, allocated_at = @at WHERE id = @id')
  const setGone = store.prepare('UPDATE machines SET gone_at = @at WHERE id = @id AND gone_at IS NULL')
  const setFacts = store.prepare('UPDATE machines SET facts = @facts WHERE id = @id')
  const setClock = store.prepare('UPDATE machines SET clock_ms = MAX(COALESCE(clock_ms, 0), @ms) WHERE id = @id')
  const insertChange = store.prepare('INSERT INTO machine_changes (machine_id, at, from_state, to_state, event, reason) VALUES (@id, @at, @from, @to, @event, @reason)')
  const changesOf = store.prepare<[string], ChangeRow>('SELECT machine_id, at, from_state, to_state, event, reason FROM machine_changes WHERE machine_id = ? ORDER BY id')
  const changesOfRun = store.prepare<[number], ChangeRow>(`
    SELECT c.machine_id, c.at, c.from_state, c.to_state, c.event, c.reason
    FROM machine_changes c JOIN machines m ON m.id = c.machine_id
    WHERE m.run_id = ? ORDER BY c.id`)
  const insertEnrolment = store.prepare('INSERT INTO enrolments (token_hash, machine_id, expires_at) VALUES (@hash, @machineId, @expiresAt)')
  const enrolmentByHash = store.prepare<[string], EnrolmentRow>('SELECT machine_id, expires_at, used_at, public_key FROM enrolments WHERE token_hash = ?')
  const enrolmentOf = store.prepare<[string], EnrolmentRow>('SELECT machine_id, expires_at, used_at, public_key FROM enrolments WHERE machine_id = ?')
  const useEnrolment = store.prepare('UPDATE enrolments SET used_at = @at, public_key = @publicKey WHERE token_hash = @hash AND used_at IS NULL')

  return {
    create: (machine: Pick<Machine, 'id' | 'runId' | 'provider' | 'region' | 'location' | 'place' | 'name' | 'type' | 'idempotencyKey' | 'askedAt' | 'leaseEndsAt'>) => {
      insert.run({ ...machine, askedAt: Math.round(machine.askedAt), leaseEndsAt: Math.round(machine.leaseEndsAt) })
    },
    machine: (id: string) => {
      const row = byId.get(id)
      return row && machineOf(row)
    },
    ofRun: (runId: number) => ofRun.all(runId).map(machineOf),
    /** Machines the provider has not confirmed to be gone. */
    out: () => out.all().map(machineOf),
    /** Machines that were out at any time since a moment. */
    outSince: (moment: number) => since.all(moment).map(machineOf),
    change(id: string, change: MachineChange) {
      setState.run({ id, to: change.to, at: Math.round(change.at) })
      insertChange.run({ id, ...change, at: Math.round(change.at) })
    },
    remark(id: string, state: MachineState, event: string, reason: string, at: number) {
      insertChange.run({ id, at: Math.round(at), from: state, to: state, event, reason })
    },
    changes: (id: string) => changesOf.all(id).map(changeOf),
    changesOfRun: (runId: number) => changesOfRun.all(runId).map(r => ({ machineId: r.machine_id, ...changeOf(r) })),
    setRef: (id: string, ref: string, at: number) => { setRef.run({ id, ref, at: Math.round(at) }) },
    setGone: (id: string, at: number) => { setGone.run({ id, at: Math.round(at) }) },
    setFacts: (id: string, facts: HostFacts) => { setFacts.run({ id, facts: JSON.stringify(facts) }) },
    noteClock: (id: string, ms: number) => { setClock.run({ id, ms }) },
    addEnrolment: (hash: string, machineId: string, expiresAt: number) => { insertEnrolment.run({ hash, machineId, expiresAt: Math.round(expiresAt) }) },
    enrolment: (hash: string) => enrolmentFrom(enrolmentByHash.get(hash)),
    enrolmentOf: (machineId: string) => enrolmentFrom(enrolmentOf.get(machineId)),
    /** Uses a token up. @returns false when it was used before */
    useEnrolment: (hash: string, publicKey: string, at: number) => useEnrolment.run({ hash, publicKey, at: Math.round(at) }).changes === 1,
  }
}

interface MachineRow {
  id: string
  run_id: number
  provider: string
  region: string
  location: string
  place: number
  name: string
  type: string
  state: MachineState
  since: number
  ref: string | null
  idempotency_key: string
  asked_at: number
  allocated_at: number | null
  gone_at: number | null
  lease_ends_at: number
  clock_ms: number | null
  facts: string | null
}
interface ChangeRow { machine_id: string, at: number, from_state: MachineState, to_state: MachineState, event: string, reason: string }
interface EnrolmentRow { machine_id: string, expires_at: number, used_at: number | null, public_key: string | null }

function machineOf(row: MachineRow): Machine {
  return {
    id: row.id, runId: row.run_id, provider: row.provider, region: row.region, location: row.location, place: row.place, name: row.name, type: row.type,
    state: row.state, since: row.since, ref: row.ref ?? undefined, idempotencyKey: row.idempotency_key, askedAt: row.asked_at, allocatedAt: row.allocated_at ?? undefined,
    goneAt: row.gone_at ?? undefined, leaseEndsAt: row.lease_ends_at, clockMs: row.clock_ms ?? undefined, facts: row.facts === null ? undefined : JSON.parse(row.facts) as HostFacts,
  }
}

function changeOf(row: ChangeRow): MachineChange {
  return { at: row.at, from: row.from_state, to: row.to_state, event: row.event, reason: row.reason }
}

function enrolmentFrom(row: EnrolmentRow | undefined): Enrolment | undefined {
  return row && { machineId: row.machine_id, expiresAt: row.expires_at, usedAt: row.used_at ?? undefined, publicKey: row.public_key ?? undefined }
}
