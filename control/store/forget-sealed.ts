/**
 * The way out when the key of what is sealed is lost for good: everything that was sealed is forgotten, and what stood
 * on it is closed. With the next start there is a new key, and what was forgotten is entered again.
 */
import { existsSync } from 'node:fs'
import { join } from 'node:path'
import { factStore } from './facts'
import { holdFolder } from './folder-lock'
import { leaveWhatIsUnderWay } from './left-behind'
import { machineStore } from './machines'
import { openStore, type Store } from './open'
import { SEALED_FACTS, sealingWith } from './sealing'

/** It is not forgotten; everything is as it was. */
class CannotForget extends Error {
  override name = 'CannotForget'
}

/** What has to be entered again, by name. */
export interface Forgotten {
  secrets: string[]
  accounts: string[]
  sshKeys: string[]
  hooks: string[]
  /** Machines that were out: nobody here can list or release them any more. */
  machines: string[]
}

/** What would be forgotten. @throws CannotForget where there is nothing to look at */
export function whatIsSealed(folder: string): Forgotten {
  return within(folder, sealedIn)
}

/**
 * Forgets it.
 *
 * @param keyFile must not open what is sealed: nothing is forgotten that can be read
 * @throws CannotForget
 */
export function forgetSealed(folder: string, keyFile: string, now: number): Forgotten {
  return within(folder, (store) => {
    if (opens(store, keyFile))
      throw new CannotForget(`${keyFile} is the key of what is sealed in ${folder}: nothing has to be forgotten.`)
    const forgotten = sealedIn(store)
    const facts = factStore(store)
    store.transaction(() => {
      leaveWhatIsUnderWay(store, now, 'the key of its account was lost')
      store.exec(`
        DELETE FROM secrets;
        DELETE FROM accounts;
        DELETE FROM ssh_keys;
        DELETE FROM dispatches WHERE hook_id IS NOT NULL;
        DELETE FROM hooks;
        DELETE FROM outbox;
        DELETE FROM invitations WHERE machine_id IS NULL
      `)
      for (const name of SEALED_FACTS) facts.drop(name)
    })()
    return forgotten
  })
}

function within<T>(folder: string, act: (store: Store) => T): T {
  if (!existsSync(join(folder, 'vornak.db'))) throw new CannotForget(`${folder} holds no data of Vornak.`)
  const lock = holdFolder(folder)
  try {
    const store = openStore(join(folder, 'vornak.db'))
    try {
      return act(store)
    }
    finally {
      store.close()
    }
  }
  finally {
    lock.release()
  }
}

/** Whether the key opens what this data was sealed with. */
function opens(store: Store, keyFile: string): boolean {
  const sealed = factStore(store).get('secret-sealed')
  if (sealed === undefined || !existsSync(keyFile)) return false
  try {
    sealingWith(keyFile, true).unseal(Buffer.from(sealed, 'base64'), 'secret-sealed')
    return true
  }
  catch {
    return false
  }
}

function sealedIn(store: Store): Forgotten {
  const names = (sql: string) => store.prepare<[], string>(sql).pluck().all()
  return {
    secrets: names(`
      SELECT name || ' of ' || COALESCE(document ->> '$.name', target_id)
      FROM secrets
      JOIN targets ON targets.id = target_id
      ORDER BY 1
    `),
    accounts: names('SELECT COALESCE(document ->> \'$.name\', id) FROM accounts ORDER BY 1'),
    sshKeys: names('SELECT name FROM ssh_keys ORDER BY 1'),
    hooks: names('SELECT name FROM hooks ORDER BY 1'),
    machines: machineStore(store).out().map(m => m.name),
  }
}
