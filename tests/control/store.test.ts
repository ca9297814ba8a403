import { join } from 'node:path'
import Database from 'better-sqlite3'
import { outboxStore } from '../../control/store/outbox'
import { libraryStore } from '../../control/store/library'
import { NewerDatabase, openStore } from '../../control/store/open'
import { ownFolder } from '../build/folder'
import { plan } from '../build/plans'

const folder = ownFolder()

describe('the store', () => {
  it('brings an empty file up to date and opens it again', () => {
    const path = join(folder, 'a.db')
    openStore(path).close()
    const again = openStore(path)
    expect(again.pragma('user_version', { simple: true })).toBe(2)
    expect(again.pragma('foreign_keys', { simple: true })).toBe(1)
    again.close()
  })

  it('refuses a database of a newer release, says which, and leaves it alone', () => {
    const path = join(folder, 'new.db')
    const future = new Database(path)
    future.pragma('user_version = 99')
    future.close()
    expect(() => openStore(path)).toThrow(NewerDatabase)
    expect(() => openStore(path)).toThrow('version 99; this release knows version 2')
    const after = new Database(path)
    expect(after.pragma('user_version', { simple: true })).toBe(99)
    after.close()
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
    expect(outbox.waiting().map(e => [e.kind, e.attempts])).toEqual([['askForMachines', 1], ['release', 0]])
    outbox.strikeOff(1)
    expect(outbox.waiting().map(e => e.kind)).toEqual(['release'])
    store.close()
  })
})
