/** The way out when the key of what is sealed is lost: what is forgotten, and what stays. */
import { rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { forgetSealed, whatIsSealed } from '../../control/store/forget-sealed'
import { accountStore } from '../../control/store/accounts'
import { factStore } from '../../control/store/facts'
import { holdFolder } from '../../control/store/folder-lock'
import { hostStore } from '../../control/store/hosts'
import { libraryStore } from '../../control/store/library'
import { openStore } from '../../control/store/open'
import { runStore } from '../../control/store/runs'
import { isAnythingSealed, sealingWith } from '../../control/store/sealing'
import { FREE } from '../../core/offers/cost'
import { machineStore } from '../../control/store/machines'
import { ownFolder } from '../build/folder'
import { runDocument, target } from '../build/plans'

const folder = ownFolder()
let houses = 0

/** An installation with something sealed, a machine that is out, a run that is over and one that is not. */
function house() {
  const data = join(folder, String(++houses))
  const keyFile = `${data}.key`
  const sealing = sealingWith(keyFile)
  holdFolder(data).release()
  const store = openStore(join(data, 'vornak.db'))
  const facts = factStore(store)
  facts.set('secret-sealed', sealing.seal('s', 'secret-sealed').toString('base64'))
  facts.set('mail-password', 'x')
  libraryStore(store).saveTarget(target({ id: 't', name: 'Portal' }))
  store
    .prepare('INSERT INTO secrets (target_id, name, sealed) VALUES (?, ?, ?)')
    .run('t', 'password', sealing.seal('x', 'secret/t/password'))
  accountStore(store).save({ id: 'n', name: 'Nimbral', address: 'http://127.0.0.1:9', ownEnd: 'natively' }, sealing.seal('k', 'account/n'))
  hostStore(store).saveKey('ops', 'SHA256:x', sealing.seal('k', 'key/ops'))
  const runs = runStore(store)
  const over = runs.create('p', runDocument(), 1)
  runs.change(over, { at: 2, from: 'draining', to: 'settled', event: 'closedAsPlanned', reason: 'x' }, true)
  const waiting = runs.create('p', runDocument(), 3)
  machineStore(store).create({
    id: 'm1',
    runId: waiting,
    name: 'vornak-x-1',
    location: 'REY',
    place: 0,
    provider: 'nimbral',
    region: 'reyk',
    type: 'brisk-1',
    idempotencyKey: 'm1',
    askedAt: 3,
    leaseEndsAt: 1e9,
    price: FREE,
  })
  store.close()
  return { data, keyFile, over, waiting }
}

describe('what was sealed with a key that is lost', () => {
  it('is named, and forgotten with what stands on it; everything else stays', () => {
    const { data, keyFile, over, waiting } = house()
    rmSync(keyFile)
    const named = {
      secrets: ['password of Portal'],
      accounts: ['Nimbral'],
      sshKeys: ['ops'],
      hooks: [],
      machines: ['vornak-x-1'],
    }
    expect(whatIsSealed(data)).toEqual(named)
    expect(whatIsSealed(data)).toEqual(named)
    expect(forgetSealed(data, keyFile, 9)).toEqual(named)
    const store = openStore(join(data, 'vornak.db'))
    expect(isAnythingSealed(store)).toBe(false)
    expect(sealingWith(keyFile, isAnythingSealed(store)).trouble).toBeUndefined()
    expect(machineStore(store).out()).toEqual([])
    expect(runStore(store).run(over)).toMatchObject({ state: 'settled' })
    expect(runStore(store).run(waiting)).toMatchObject({ state: 'stopped', endedAt: 9 })
    expect(libraryStore(store).targets().map(t => t.name)).toEqual(['Portal'])
    store.close()
    expect(whatIsSealed(data)).toEqual({ secrets: [], accounts: [], sshKeys: [], hooks: [], machines: [] })
  })

  it('stays where the key opens it, while somebody runs on it, and where there is nothing', () => {
    const { data, keyFile } = house()
    expect(() => forgetSealed(data, keyFile, 9)).toThrow('nothing has to be forgotten')
    writeFileSync(keyFile, `${'ab'.repeat(32)}\n`)
    const lock = holdFolder(data)
    expect(() => forgetSealed(data, keyFile, 9)).toThrow('is held by')
    lock.release()
    expect(whatIsSealed(data).accounts).toEqual(['Nimbral'])
    // Another key than that it was sealed with is as good as none.
    expect(forgetSealed(data, keyFile, 9).accounts).toEqual(['Nimbral'])
    expect(() => whatIsSealed(join(folder, 'nowhere'))).toThrow('holds no data of Vornak')
  })
})
