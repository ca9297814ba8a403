/** Machines, their crews, changes and enrolments in the store. */
import type { Price } from '../../core/offers/cost'
import type { Attached } from '../../core/offers/machine-type'
import type { HostFacts } from '../../protocol/messages'
import type { MachineState } from '../../core/run/machine-life'
import type { Store } from './open'
import { fromStore } from './from-store'
import { onlyRow } from './only-row'
import { present } from '../../core/values/present'

/** Why a machine that was asked for is not there yet. */
export interface Waiting {
  code: string
  sentence: string
  since: number
  nextAt: number
}

/** What was wished for beside region and type. */
export interface MachineWishes {
  attached?: Attached
  elsewhere?: string[]
  /** Length of its lease, ms: whatever it waits before is not taken off. */
  leaseMs?: number
}

export interface Machine {
  id: string
  /** Run it works for; undefined: kept warm, or enrolled by itself and waiting. */
  runId: number | undefined
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
  triedAt: number | undefined
  allocatedAt: number | undefined
  releaseAskedAt: number | undefined
  goneAt: number | undefined
  leaseEndsAt: number
  reclaimAt: number | undefined
  clockMs: number | undefined
  facts: HostFacts | undefined
  price: Price
  wishes: MachineWishes
  waits: Waiting | undefined
  attempt: number
  billed: number | undefined
  address: string | undefined
}

export type NewMachine = Pick<
  Machine,
  | 'id'
  | 'provider'
  | 'region'
  | 'location'
  | 'place'
  | 'name'
  | 'type'
  | 'idempotencyKey'
  | 'askedAt'
  | 'leaseEndsAt'
  | 'price'
> & { runId?: number, wishes?: MachineWishes, attempt?: number }

/** A machine's time with a run. */
export interface CrewMember {
  runId: number
  machineId: string
  location: string
  place: number
  name: string
  takenAt: number
  leftAt: number | undefined
  replaced: boolean
}

/**
 * A machine's time with a run, as what it cost is reckoned: until the next run takes it, waiting belongs to this one.
 */
export interface MachineStay {
  runId: number
  takenAt: number
  nextAt: number | undefined
  first: boolean
}

export interface MachineChange {
  at: number
  from: MachineState
  to: MachineState
  event: string
  reason: string
}

export interface Enrolment {
  machineId: string
  expiresAt: number
  usedAt: number | undefined
  publicKey: string | undefined
}

export type MachineStore = ReturnType<typeof machineStore>

// eslint-disable-next-line max-lines-per-function -- the statements of a table stand with what they are asked for
export function machineStore(store: Store) {
  const insert = store.prepare(`
    INSERT INTO machines (id, run_id, provider, region, location, place, name, type, state, since, idempotency_key, asked_at, lease_ends_at, price, wishes, attempt)
    VALUES (@id, @runId, @provider, @region, @location, @place, @name, @type, 'asked', @askedAt, @idempotencyKey, @askedAt, @leaseEndsAt, @price, @wishes, @attempt)`)
  const insertCrew = store.prepare(`
    INSERT INTO crew (run_id, machine_id, location, place, name, taken_at)
    VALUES (@runId, @id, @location, @place, @name, @at)
  `)
  const byId = store.prepare<[string], MachineRow>('SELECT * FROM machines WHERE id = ?')
  const ofRun = store.prepare<[number], PostRow>(`
    SELECT machine_id, location, place, name
    FROM crew
    WHERE run_id = ? AND replaced = 0
    ORDER BY location, place
  `)
  const everOfRun = store.prepare<[number], PostRow & { next_at: number | null, taken_at: number, first_at: number }>(`
    SELECT c.machine_id, c.location, c.place, c.name, c.taken_at,
      (SELECT MIN(n.taken_at) FROM crew n WHERE n.machine_id = c.machine_id AND n.taken_at > c.taken_at) AS next_at,
      (SELECT MIN(f.taken_at) FROM crew f WHERE f.machine_id = c.machine_id) AS first_at
    FROM crew c
    JOIN machines m ON m.id = c.machine_id
    WHERE c.run_id = ?
    ORDER BY c.location, c.place, m.attempt
  `)
  const crewOf = store.prepare<[string], CrewRow>('SELECT * FROM crew WHERE machine_id = ? ORDER BY taken_at, run_id')
  const crewSince = store.prepare<[number], CrewRow>('SELECT * FROM crew WHERE left_at IS NULL OR left_at >= ?')
  const out = store.prepare<[], { id: string }>(
    'SELECT id FROM machines WHERE gone_at IS NULL ORDER BY location, place',
  )
  const countOut = store.prepare<[], { n: number }>('SELECT COUNT(*) AS n FROM machines WHERE gone_at IS NULL')
  const idle = store.prepare<[], { id: string }>(`
    SELECT id
    FROM machines
    WHERE gone_at IS NULL AND run_id IS NULL
    ORDER BY asked_at, id
  `)
  const since = store.prepare<[number], { id: string }>(`
    SELECT id
    FROM machines
    WHERE gone_at IS NULL OR gone_at >= ?
    ORDER BY asked_at, id
  `)
  const unbilled = store.prepare<[number], { id: string }>(`
    SELECT id
    FROM machines
    WHERE gone_at >= ? AND billed IS NULL AND ref IS NOT NULL
  `)
  const setState = store.prepare('UPDATE machines SET state = @to, since = @at WHERE id = @id')
  const setRef = store.prepare(`
    UPDATE machines
    SET ref = @ref, allocated_at = COALESCE(allocated_at, @at), waits = NULL
    WHERE id = @id
  `)
  const setTried = store.prepare('UPDATE machines SET tried_at = @at WHERE id = @id')
  const setWaits = store.prepare('UPDATE machines SET waits = @waits WHERE id = @id')
  const setLease = store.prepare('UPDATE machines SET lease_ends_at = @at WHERE id = @id')
  const setReleaseAsked = store.prepare(`
    UPDATE machines
    SET release_asked_at = COALESCE(release_asked_at, @at)
    WHERE id = @id
  `)
  const setReclaim = store.prepare('UPDATE machines SET reclaim_at = @at WHERE id = @id')
  const setGone = store.prepare(`
    UPDATE machines
    SET gone_at = @at, waits = NULL
    WHERE id = @id AND gone_at IS NULL
  `)
  const leaveWhenGone = store.prepare('UPDATE crew SET left_at = @at WHERE machine_id = @id AND left_at IS NULL')
  const setFacts = store.prepare('UPDATE machines SET facts = @facts WHERE id = @id')
  const setAddress = store.prepare('UPDATE machines SET address = @address WHERE id = @id')
  const setBilled = store.prepare('UPDATE machines SET billed = @billed WHERE id = @id')
  const setClock = store.prepare('UPDATE machines SET clock_ms = MAX(COALESCE(clock_ms, 0), @ms) WHERE id = @id')
  const setWorksFor = store.prepare(`
    UPDATE machines
    SET run_id = @runId, location = @location, place = @place, name = @name
    WHERE id = @id
  `)
  const setWaitsForWork = store.prepare('UPDATE machines SET run_id = NULL WHERE id = @id')
  const setReplaced = store.prepare(`
    UPDATE crew
    SET replaced = 1, left_at = COALESCE(left_at, @at)
    WHERE run_id = @runId AND machine_id = @id
  `)
  const setPlace = store.prepare('UPDATE crew SET place = @place WHERE run_id = @runId AND machine_id = @id')
  const insertChange = store.prepare(`
    INSERT INTO machine_changes (machine_id, at, from_state, to_state, event, reason)
    VALUES (@id, @at, @from, @to, @event, @reason)
  `)
  const changesOf = store.prepare<[string], ChangeRow>(`
    SELECT machine_id, at, from_state, to_state, event, reason
    FROM machine_changes
    WHERE machine_id = ?
    ORDER BY id
  `)
  const changesOfRun = store.prepare<[number], ChangeRow>(`
    SELECT c.machine_id, c.at, c.from_state, c.to_state, c.event, c.reason
    FROM crew w JOIN machine_changes c ON c.machine_id = w.machine_id
    WHERE w.run_id = ? ORDER BY c.id`)
  const changesSince = store.prepare<[number], ChangeRow>(`
    SELECT c.machine_id, c.at, c.from_state, c.to_state, c.event, c.reason
    FROM machine_changes c JOIN machines m ON m.id = c.machine_id
    WHERE m.gone_at IS NULL OR m.gone_at >= ? ORDER BY c.id`)
  const stageTimes = store.prepare<[string, number], { from_state: MachineState, ms: number }>(`
    SELECT c.from_state, c.at - p.at AS ms
    FROM machine_changes c
    JOIN machine_changes p ON p.id = (SELECT MAX(id) FROM machine_changes WHERE machine_id = c.machine_id AND id < c.id AND to_state = c.from_state)
    JOIN machines m ON m.id = c.machine_id
    WHERE m.provider = ? AND c.from_state IN ('allocated', 'booting', 'installing') AND c.to_state IN ('booting', 'installing', 'enrolled') AND c.id > ?`)
  const lastChangeId = store.prepare<[], { id: number | null }>('SELECT MAX(id) AS id FROM machine_changes')
  const insertEnrolment = store.prepare(`
    INSERT INTO enrolments (token_hash, machine_id, expires_at)
    VALUES (@hash, @machineId, @expiresAt)
  `)
  const prolong = store.prepare(`
    UPDATE enrolments
    SET expires_at = @expiresAt
    WHERE machine_id = @machineId AND used_at IS NULL
  `)
  const enrolmentByHash = store.prepare<[string], EnrolmentRow>(`
    SELECT machine_id, expires_at, used_at, public_key
    FROM enrolments
    WHERE token_hash = ?
  `)
  const enrolmentOf = store.prepare<[string], EnrolmentRow>(`
    SELECT machine_id, expires_at, used_at, public_key
    FROM enrolments
    WHERE machine_id = ?
  `)
  const useEnrolment = store.prepare(`
    UPDATE enrolments
    SET used_at = @at, public_key = @publicKey
    WHERE token_hash = @hash AND used_at IS NULL
  `)
  const putLog = store.prepare(`
    INSERT INTO machine_logs (machine_id, at, content)
    VALUES (@id, @at, @content)
    ON CONFLICT (machine_id)
    DO UPDATE SET at = excluded.at, content = excluded.content
  `)
  const logOf = store.prepare<[string], { content: string }>('SELECT content FROM machine_logs WHERE machine_id = ?')

  const whole = (n: number) => Math.round(n)
  /** Machines as last read: they are asked for many times a second, and written here alone. */
  const known = new Map<string, Machine>()
  const machine = (id: string): Machine | undefined => {
    const kept = known.get(id)
    if (kept) return kept
    const row = byId.get(id)
    if (!row) return undefined
    const read = machineOf(row)
    known.set(id, read)
    return read
  }
  const machinesOf = (rows: { id: string }[]) => rows.map(r => present(machine(r.id), 'a machine that was just found'))
  /** A machine at the place it has, or had, in a run. */
  const posted = ({ machine_id: id, location, place, name }: PostRow): Machine => ({
    ...machine(id)!,
    location,
    place,
    name,
  })
  /** A writing statement for one machine: what was known of it is read anew. */
  const writes =
    <P extends { id: string }>(statement: { run(values: P): unknown }) =>
      (values: P) => {
        statement.run(values)
        known.delete(values.id)
      }
  const write = {
    state: writes<{ id: string, to: MachineState, at: number }>(setState),
    ref: writes<{ id: string, ref: string, at: number }>(setRef),
    tried: writes<{ id: string, at: number | null }>(setTried),
    waits: writes<{ id: string, waits: string | null }>(setWaits),
    lease: writes<{ id: string, at: number }>(setLease),
    releaseAsked: writes<{ id: string, at: number }>(setReleaseAsked),
    reclaim: writes<{ id: string, at: number }>(setReclaim),
    gone: writes<{ id: string, at: number }>(setGone),
    facts: writes<{ id: string, facts: string }>(setFacts),
    address: writes<{ id: string, address: string }>(setAddress),
    billed: writes<{ id: string, billed: number }>(setBilled),
    clock: writes<{ id: string, ms: number }>(setClock),
    worksFor: writes<{ id: string, runId: number, location: string, place: number, name: string }>(setWorksFor),
    waitsForWork: writes<{ id: string }>(setWaitsForWork),
  }

  return {
    create: store.transaction((machine: NewMachine) => {
      const { runId, wishes = {}, attempt = 1, price, ...rest } = machine
      insert.run({
        ...rest,
        runId: runId ?? null,
        askedAt: whole(machine.askedAt),
        leaseEndsAt: whole(machine.leaseEndsAt),
        price: JSON.stringify(price),
        wishes: JSON.stringify(wishes),
        attempt,
      })
      if (runId !== undefined)
        insertCrew.run({
          runId,
          id: machine.id,
          location: machine.location,
          place: machine.place,
          name: machine.name,
          at: whole(machine.askedAt),
        })
    }),
    machine,
    /** Does several things or none: in one transaction. */
    together<T>(act: () => T): T {
      try {
        return store.transaction(act)()
      }
      catch (error) {
        // What was taken back must not be remembered.
        known.clear()
        throw error
      }
    },
    /** The machines that hold a run's places. */
    ofRun: (runId: number) => ofRun.all(runId).map(posted),
    /** Everything that ever worked for a run, also what failed and was replaced, with its time there. */
    everOfRun: (runId: number) =>
      everOfRun.all(runId).map(row => ({
        machine: posted(row),
        stay: {
          runId,
          takenAt: row.taken_at,
          nextAt: row.next_at ?? undefined,
          first: row.first_at === row.taken_at,
        },
      })),
    crewOf: (machineId: string) => crewOf.all(machineId).map(crewFrom),
    crewSince: (moment: number) => crewSince.all(whole(moment)).map(crewFrom),
    /** Machines the provider has not confirmed to be gone. */
    out: () => machinesOf(out.all()),
    countOut: () => onlyRow(countOut.get()).n,
    /** Those of them that work for no run. */
    idle: () => machinesOf(idle.all()),
    /** Machines that were out at any time since a moment. */
    outSince: (moment: number) => machinesOf(since.all(moment)),
    /** Machines gone since a moment whose bill has not come. */
    unbilled: (moment: number) => machinesOf(unbilled.all(whole(moment))),
    change(id: string, change: MachineChange) {
      write.state({ id, to: change.to, at: whole(change.at) })
      insertChange.run({ id, ...change, at: whole(change.at) })
    },
    remark(id: string, state: MachineState, event: string, reason: string, at: number) {
      insertChange.run({ id, at: whole(at), from: state, to: state, event, reason })
    },
    changes: (id: string) => changesOf.all(id).map(changeOf),
    /** Changes of every machine that ever worked for a run, by machine. */
    changesOfRun: (runId: number) => byMachine(changesOfRun.all(runId)),
    /** Changes of all machines that were out since a moment, by machine. */
    changesSince: (moment: number) => byMachine(changesSince.all(moment)),
    /** How long stages on the way to enrolment took at a provider, ms, after a change of this number. */
    stageTimes: (provider: string, after: number) =>
      stageTimes.all(provider, after).map(r => ({ stage: r.from_state, ms: r.ms })),
    lastChangeId: () => onlyRow(lastChangeId.get()).id ?? 0,
    setRef: (id: string, ref: string, at: number) => {
      write.ref({ id, ref, at: whole(at) })
    },
    setTried: (id: string, at: number | undefined) => {
      write.tried({ id, at: at === undefined ? null : whole(at) })
    },
    setWaits: (id: string, waits: Waiting | undefined) => {
      write.waits({ id, waits: waits ? JSON.stringify(waits) : null })
    },
    setLease: (id: string, at: number) => {
      write.lease({ id, at: whole(at) })
    },
    setReleaseAsked: (id: string, at: number) => {
      write.releaseAsked({ id, at: whole(at) })
    },
    setReclaim: (id: string, at: number) => {
      write.reclaim({ id, at: whole(at) })
    },
    setGone: store.transaction((id: string, at: number) => {
      write.gone({ id, at: whole(at) })
      leaveWhenGone.run({ id, at: whole(at) })
    }),
    setFacts: (id: string, facts: HostFacts) => {
      write.facts({ id, facts: JSON.stringify(facts) })
    },
    setAddress: (id: string, address: string) => {
      write.address({ id, address })
    },
    setBilled: (id: string, billed: number) => {
      write.billed({ id, billed })
    },
    /** Keeps the largest uncertainty of its clock. */
    noteClock: (id: string, ms: number) => {
      if (ms > (machine(id)?.clockMs ?? -1)) write.clock({ id, ms })
    },
    /** Gives a waiting machine a place in a run. */
    take: store.transaction(
      (
        id: string,
        {
          runId,
          location,
          place,
          name,
          at,
        }: { runId: number, location: string, place: number, name: string, at: number },
      ) => {
        write.worksFor({ id, runId, location, place, name })
        insertCrew.run({ id, runId, location, place, name, at: whole(at) })
      },
    ),
    /** Its run is over; the machine waits for the next. */
    letGo: store.transaction((id: string, at: number) => {
      leaveWhenGone.run({ id, at: whole(at) })
      write.waitsForWork({ id })
    }),
    /** Another has its place now. */
    replace: (runId: number, id: string, at: number) => {
      setReplaced.run({ runId, id, at: whole(at) })
    },
    setPlace: (runId: number, id: string, place: number) => {
      setPlace.run({ runId, id, place })
    },
    addEnrolment: (hash: string, machineId: string, expiresAt: number) => {
      insertEnrolment.run({ hash, machineId, expiresAt: whole(expiresAt) })
    },
    prolongEnrolment: (machineId: string, expiresAt: number) => {
      prolong.run({ machineId, expiresAt: whole(expiresAt) })
    },
    enrolment: (hash: string) => enrolmentFrom(enrolmentByHash.get(hash)),
    enrolmentOf: (machineId: string) => enrolmentFrom(enrolmentOf.get(machineId)),
    /** Uses a token up. @returns false when it was used before */
    useEnrolment: (hash: string, publicKey: string, at: number) =>
      useEnrolment.run({ hash, publicKey, at: whole(at) }).changes === 1,
    saveLog: (id: string, content: string, at: number) => {
      putLog.run({ id, content, at: whole(at) })
    },
    log: (id: string) => logOf.get(id)?.content,
  }
}

interface MachineRow {
  id: string
  run_id: number | null
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
  tried_at: number | null
  allocated_at: number | null
  release_asked_at: number | null
  gone_at: number | null
  lease_ends_at: number
  reclaim_at: number | null
  clock_ms: number | null
  facts: string | null
  price: string
  wishes: string
  waits: string | null
  attempt: number
  billed: number | null
  address: string | null
}
interface PostRow {
  machine_id: string
  location: string
  place: number
  name: string
}
interface ChangeRow {
  machine_id: string
  at: number
  from_state: MachineState
  to_state: MachineState
  event: string
  reason: string
}
interface CrewRow {
  run_id: number
  machine_id: string
  location: string
  place: number
  name: string
  taken_at: number
  left_at: number | null
  replaced: number
}
interface EnrolmentRow {
  machine_id: string
  expires_at: number
  used_at: number | null
  public_key: string | null
}

function machineOf(row: MachineRow): Machine {
  return {
    id: row.id,
    runId: row.run_id ?? undefined,
    provider: row.provider,
    region: row.region,
    location: row.location,
    place: row.place,
    name: row.name,
    type: row.type,
    state: row.state,
    since: row.since,
    ref: row.ref ?? undefined,
    idempotencyKey: row.idempotency_key,
    askedAt: row.asked_at,
    triedAt: row.tried_at ?? undefined,
    allocatedAt: row.allocated_at ?? undefined,
    releaseAskedAt: row.release_asked_at ?? undefined,
    goneAt: row.gone_at ?? undefined,
    leaseEndsAt: row.lease_ends_at,
    reclaimAt: row.reclaim_at ?? undefined,
    // Release 0.6 kept “without end” for a connection that had just begun.
    clockMs: Number.isFinite(row.clock_ms) ? row.clock_ms! : undefined,
    facts: parsed<HostFacts>(row.facts),
    price: fromStore<Price>(row.price),
    wishes: fromStore<MachineWishes>(row.wishes),
    waits: parsed<Waiting>(row.waits),
    attempt: row.attempt,
    billed: row.billed ?? undefined,
    address: row.address ?? undefined,
  }
}

function parsed<T>(json: string | null): T | undefined {
  return json === null ? undefined : fromStore<T>(json)
}

function crewFrom(row: CrewRow): CrewMember {
  return {
    runId: row.run_id,
    machineId: row.machine_id,
    location: row.location,
    place: row.place,
    name: row.name,
    takenAt: row.taken_at,
    leftAt: row.left_at ?? undefined,
    replaced: row.replaced === 1,
  }
}

function byMachine(rows: readonly ChangeRow[]): Map<string, MachineChange[]> {
  const found = new Map<string, MachineChange[]>()
  for (const row of rows) {
    const list = found.get(row.machine_id)
    if (list) list.push(changeOf(row))
    else found.set(row.machine_id, [changeOf(row)])
  }
  return found
}

function changeOf(row: ChangeRow): MachineChange {
  return { at: row.at, from: row.from_state, to: row.to_state, event: row.event, reason: row.reason }
}

function enrolmentFrom(row: EnrolmentRow | undefined): Enrolment | undefined {
  return (
    row && {
      machineId: row.machine_id,
      expiresAt: row.expires_at,
      usedAt: row.used_at ?? undefined,
      publicKey: row.public_key ?? undefined,
    }
  )
}
