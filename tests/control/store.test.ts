import { spawnSync } from 'node:child_process'
import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import Database from 'better-sqlite3'
import { holdFolder } from '../../control/store/folder-lock'
import { outboxStore } from '../../control/store/outbox'
import { libraryStore } from '../../control/store/library'
import { Pyramid } from '../../control/ingest/pyramid'
import { machineStore } from '../../control/store/machines'
import { NewerDatabase, openRunFile, openStore } from '../../control/store/open'
import { runStore } from '../../control/store/runs'
import type { RunDocument } from '../../core/run/document'
import { seriesOf } from '../../core/run/series'
import { ownFolder } from '../build/folder'
import { plan, runDocument } from '../build/plans'

const folder = ownFolder()

/** SQL of a migration, as the release of its day ran it. */
const migration = (name: string) => readFileSync(join(__dirname, `../../control/store/migrations/${name}.sql`), 'utf8')

describe('files of the first release', () => {
  it('keep their journeys, read as they were meant, as the first version of each', () => {
    const path = join(folder, 'first.db')
    const first = new Database(path)
    first.exec(migration('001-ground'))
    first.pragma('user_version = 1')
    first
      .prepare('INSERT INTO journeys (id, document) VALUES (?, ?)')
      .run(
        'old',
        JSON.stringify({
          id: 'old',
          name: 'Old',
          round: [{ name: 'S', method: 'GET', url: '/', think: { kind: 'none' }, expectStatus: [200], timeoutMs: 100 }],
        }),
      )
    first.close()
    const store = openStore(path)
    const library = libraryStore(store)
    expect(library.journey('old')).toMatchObject({
      version: 1,
      journey: {
        schema: 'vornak-journey/1',
        kind: 'http',
        round: [{ name: 'S', expect: [{ kind: 'status', allow: '200' }] }],
      },
    })
    expect(library.saveJourney({ ...library.journey('old')!.journey, name: 'New' }, 1, 5)).toMatchObject({ version: 2 })
    expect(library.journey('old', 1)!.journey.name).toBe('Old')
    store.close()
  })

  it('with results keep them: sums as they were encoded then are still added up', () => {
    const path = join(folder, 'run-first.db')
    const first = new Database(path)
    first.exec(migration('run-001-ground'))
    first.pragma('user_version = 1')
    // started 3, right 2, never sent 0, unclear 1, cut 0, 300 bytes, one failure kind: 4 once; five empty histograms.
    const sum = Buffer.from([3, 2, 0, 1, 0, 0xac, 0x02, 1, 4, 1, 0, 0, 0, 0, 0])
    first.prepare('INSERT INTO pyramid (level, slot, series, sum) VALUES (1, 0, 0, ?)').run(sum)
    first.prepare('INSERT INTO facts (name, value) VALUES (?, ?)').run('mergedUpTo', '0')
    first.close()
    const store = openRunFile(path)
    const merged = new Pyramid(store, 0).window(0, 1).get(0)!
    expect([
      merged.started,
      merged.right,
      merged.unclear,
      merged.bytes,
      merged.redirects,
      merged.failuresByKind(),
    ]).toEqual([3, 2, 1, 300, 0, { timeout: 1 }])
    store.close()
    const fresh = openRunFile(join(folder, 'run-new.db'))
    expect(fresh.prepare<[], { value: string }>('SELECT value FROM facts WHERE name = \'sums\'').get()!.value).toBe('6')
    fresh.close()
  })

  it('number their series as they did: requests alone', () => {
    const store = openStore(join(folder, 'runs.db'))
    const runs = runStore(store)
    const old = {
      plan: plan(),
      planVersion: 1,
      target: {},
      fleet: [],
      journeys: [
        {
          id: 'look',
          name: 'Look',
          round: ['Look', 'Ask'].map(name => ({
            name,
            method: 'GET',
            url: '/',
            think: { kind: 'none' },
            expectStatus: [200],
            timeoutMs: 1,
          })),
        },
      ],
    } as unknown as RunDocument
    const id = runs.create('p', old, 1)
    expect(seriesOf(runs.run(id)!.document).map(s => s.stepName)).toEqual(['Look', 'Ask', 'Look', 'Ask'])
    store.close()
  })
})

describe('remarks on a run', () => {
  it('are told as they are written: anyone who watches sees them at once', () => {
    const store = openStore(join(folder, 'remarks.db'))
    const told: [number, string | undefined][] = []
    const runs = runStore(store, id => told.push([id, runs.changes(id).at(-1)?.reason]))
    const id = runs.create('p', runDocument(), 1)
    runs.remark(id, 'loading', 'generatorLost', 'REY-1 is lost', 2, 'REY-1')
    expect(told).toEqual([[id, 'REY-1 is lost']])
    expect(runs.changes(id)).toEqual([
      { at: 2, from: 'loading', to: 'loading', event: 'generatorLost', reason: 'REY-1 is lost', about: 'REY-1' },
    ])
    store.close()
  })

  it('of earlier releases, whose reasons began with the name, are about the same generators', () => {
    const path = join(folder, 'sixth.db')
    const sixth = new Database(path)
    for (const name of [
      '001-ground',
      '002-library',
      '003-plan-versions',
      '004-fleet',
      '005-capacities',
      '006-take-overs',
    ])
      sixth.exec(migration(name))
    sixth.pragma('user_version = 6')
    sixth
      .prepare('INSERT INTO runs (id, plan_id, state, document, created_at) VALUES (4, ?, ?, ?, 1)')
      .run('p', 'settled', JSON.stringify(runDocument()))
    const change = sixth.prepare(
      'INSERT INTO run_changes (run_id, at, from_state, to_state, event, reason) VALUES (4, 1, ?, ?, ?, ?)',
    )
    change.run('loading', 'loading', 'generatorLost', 'REY-1 is lost: it stopped answering.')
    change.run('loading', 'loading', 'mark', 'REY-1 looks odd')
    sixth.close()
    const store = openStore(path)
    expect(
      runStore(store)
        .changes(4)
        .map(c => c.about),
    ).toEqual(['REY-1', undefined])
    store.close()
  })
})

describe('files of a release whose machines belonged to one run each', () => {
  it('keep them, with their changes, tokens and prices; each is the crew of its run', () => {
    const path = join(folder, 'third.db')
    const third = new Database(path)
    for (const name of ['001-ground', '002-library', '003-plan-versions']) third.exec(migration(name))
    third.pragma('user_version = 3')
    third.pragma('foreign_keys = ON')
    const document = {
      plan: plan(),
      journeys: [],
      target: {},
      fleet: [
        {
          location: 'REY',
          machines: 1,
          type: { name: 'brisk-1', vcpu: 1, memoryMb: 1, pricePerHour: 0.6, billingGrainS: 60 },
        },
      ],
    }
    third
      .prepare('INSERT INTO runs (id, plan_id, state, document, created_at) VALUES (4, ?, ?, ?, 1)')
      .run('p', 'settled', JSON.stringify(document))
    const machine = third.prepare(
      'INSERT INTO machines (id, run_id, provider, region, location, place, name, type, state, since, ref, idempotency_key, asked_at, allocated_at, gone_at, lease_ends_at) VALUES (?, 4, ?, ?, ?, 0, ?, ?, ?, 9, ?, ?, 1000, 2000, ?, 90000)',
    )
    machine.run('r4-rey-1', 'nimbral', 'reyk', 'REY', 'REY-1', 'brisk-1', 'released', 'nim-1', 'k1', 62_000)
    machine.run('r4-tav-1', 'nimbral', 'tavira', 'TAV', 'TAV-1', 'brisk-1', 'ready', 'nim-2', 'k2', null)
    third
      .prepare(
        'INSERT INTO machine_changes (machine_id, at, from_state, to_state, event, reason) VALUES (?, 2000, ?, ?, ?, ?)',
      )
      .run('r4-rey-1', 'asked', 'allocated', 'allocated', 'given')
    third
      .prepare(
        'INSERT INTO enrolments (token_hash, machine_id, expires_at, used_at, public_key) VALUES (?, ?, 5, 6, ?)',
      )
      .run('h', 'r4-tav-1', 'pem')
    third.close()
    const store = openStore(path)
    const machines = machineStore(store)
    expect(store.pragma('foreign_key_check')).toEqual([])
    expect(store.pragma('foreign_keys', { simple: true })).toBe(1)
    expect(
      machines.everOfRun(4).map(({ machine: m, stay }) => [m.id, m.state, m.goneAt, stay.takenAt, stay.first]),
    ).toEqual([
      ['r4-rey-1', 'released', 62_000, 1000, true],
      ['r4-tav-1', 'ready', undefined, 1000, true],
    ])
    expect(machines.machine('r4-rey-1')!.price).toMatchObject({ perHour: 0.6, grainS: 60, interruptible: false })
    // A location the run's document does not name cost nothing that anybody knows.
    expect(machines.machine('r4-tav-1')!.price.perHour).toBe(0)
    expect(machines.changes('r4-rey-1')).toEqual([
      { at: 2000, from: 'asked', to: 'allocated', event: 'allocated', reason: 'given' },
    ])
    expect(machines.enrolmentOf('r4-tav-1')).toMatchObject({ publicKey: 'pem' })
    // They live on by the rules of today.
    machines.change('r4-tav-1', { at: 70_000, from: 'ready', to: 'releasing', event: 'releaseAsked', reason: 'over' })
    machines.setGone('r4-tav-1', 80_000)
    expect(machines.out()).toEqual([])
    store.close()
  })
})

describe('the store', () => {
  it('writes what it says is safe to the disk, of a run too', () => {
    for (const store of [openStore(join(folder, 'safe.db')), openRunFile(join(folder, 'run-safe.db'))]) {
      // 2 is FULL: sqlite.org/pragma.html#pragma_synchronous.
      expect(store.pragma('synchronous', { simple: true })).toBe(2)
      store.close()
    }
  })

  it('brings an empty file up to date and opens it again', () => {
    const path = join(folder, 'a.db')
    openStore(path).close()
    const again = openStore(path)
    expect(again.pragma('user_version', { simple: true })).toBe(22)
    expect(again.pragma('foreign_keys', { simple: true })).toBe(1)
    again.close()
  })

  it('refuses a database of a newer release, says which, and leaves it alone', () => {
    const path = join(folder, 'new.db')
    const future = new Database(path)
    future.pragma('user_version = 99')
    future.close()
    expect(() => openStore(path)).toThrow(NewerDatabase)
    expect(() => openStore(path)).toThrow('version 99; this release knows version 22')
    const after = new Database(path)
    expect(after.pragma('user_version', { simple: true })).toBe(99)
    after.close()
  })

  it('leaves a copy of what an earlier release wrote beside it, once, before it changes anything', () => {
    const path = join(folder, 'old.db')
    const old = new Database(path)
    for (const name of ['001-ground', '002-library', '003-plan-versions']) old.exec(migration(name))
    old.exec(`INSERT INTO targets (id, document) VALUES ('t', '{"name":"as it was"}')`)
    old.pragma('user_version = 3')
    old.close()
    openStore(path).close()
    const copy = new Database(`${path}.version-3`, { readonly: true })
    expect(copy.pragma('user_version', { simple: true })).toBe(3)
    expect(copy.prepare('SELECT document FROM targets').pluck().get()).toBe('{"name":"as it was"}')
    copy.close()
    openStore(path).close()
    expect(readdirSync(folder).filter(f => f.startsWith('old.db.version'))).toEqual(['old.db.version-3'])
  })

  it('is refused where bringing it up to date leaves rows that refer to nothing', () => {
    const path = join(folder, 'broken.db')
    const old = new Database(path)
    for (const name of ['001-ground', '002-library', '003-plan-versions']) old.exec(migration(name))
    old.pragma('foreign_keys = OFF')
    old.exec(`INSERT INTO secrets (target_id, name, sealed) VALUES ('nobody', 'key', x'00')`)
    old.pragma('user_version = 3')
    old.close()
    expect(() => openStore(path)).toThrow('1 rows of secrets refer to nothing')
  })

  it('belongs to one process, and says to which', () => {
    const own = join(folder, 'held')
    const lock = holdFolder(own)
    expect(() => holdFolder(own)).toThrow(`process ${process.pid}`)
    const other = spawnSync(process.execPath, ['-e', `
      const lock = new (require('better-sqlite3'))(${JSON.stringify(join(own, 'lock.db'))}, { timeout: 0 })
      try { lock.exec('BEGIN EXCLUSIVE') } catch (error) { process.stdout.write(error.code) }
    `], { cwd: join(__dirname, '../..'), encoding: 'utf8' })
    expect(other.stdout).toBe('SQLITE_BUSY')
    lock.release()
    holdFolder(own).release()
  })

  it('saves a plan only on the version it was loaded at: of two tabs, the second is told', () => {
    const store = openStore(join(folder, 'b.db'))
    const library = libraryStore(store)
    expect(library.savePlan('p', plan(), 0, 1)).toMatchObject({ version: 1 })
    expect(library.savePlan('p', plan({ name: 'mine' }), 1, 2)).toMatchObject({ version: 2 })
    expect(library.savePlan('p', plan({ name: 'theirs' }), 1, 3)).toBeUndefined()
    expect(library.plan('p')!.plan.name).toBe('mine')
    store.close()
  })

  it('keeps errands in order until they are struck off', () => {
    const store = openStore(join(folder, 'c.db'))
    const outbox = outboxStore(store)
    outbox.write('askForMachines', '1', 0)
    outbox.write('release', '1', 0)
    outbox.noteTrouble(1, 'silent')
    expect(outbox.waiting().map(e => [e.kind, e.attempts])).toEqual([
      ['askForMachines', 1],
      ['release', 0],
    ])
    outbox.strikeOff(1)
    expect(outbox.waiting().map(e => e.kind)).toEqual(['release'])
    store.close()
  })
})
