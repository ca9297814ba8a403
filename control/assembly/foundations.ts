/** What every part stands on: the store with its tables, sealing, news for browsers, and what this installation is. */
import { randomBytes } from 'node:crypto'
import { chmodSync, mkdirSync } from 'node:fs'
import { join } from 'node:path'
import type { Clock } from '../clock'
import { accountStore } from '../store/accounts'
import { capacityStore } from '../store/capacities'
import { Disk } from '../store/disk'
import { InnerFaults } from '../store/faults'
import { dispatchStore } from '../store/dispatches'
import { factStore, type FactStore } from '../store/facts'
import { hostStore } from '../store/hosts'
import { invitationStore } from '../store/invitations'
import { libraryStore } from '../store/library'
import { machineStore } from '../store/machines'
import { openStore } from '../store/open'
import { outboxStore } from '../store/outbox'
import { peopleStore } from '../store/people'
import { FORMER_INSTALLATIONS } from '../store/restore'
import { reportStore } from '../store/reports'
import { rollCallStore } from '../store/roll-calls'
import { sharedLinkStore } from '../store/shared-links'
import { runStreamStore } from '../store/run-streams'
import { runStore } from '../store/runs'
import { isAnythingSealed, sealingWith, type Sealing } from '../store/sealing'
import { trailStore } from '../store/trail'
import type { OtherService } from '../people/elsewhere'
import { People } from '../people/people'
import { SharedLinks } from '../people/shared-links'
import { tellingClock } from '../store/unasked'
import { Trail } from '../people/trail'
import { News } from './news'
import { fromStore } from '../store/from-store'

export interface FoundationOptions {
  /** Folder of the databases. */
  dataFolder: string
  /** File of the key that secrets are sealed with; outside the data folder. */
  keyFile: string
  clock: Clock
  /** Free bytes of the disk below which nothing new begins. */
  leastDiskBytes?: number
  /** What is free; left out: asked of the system. */
  freeBytes?: () => number
  /** Another service that vouches for people. */
  elsewhere?: OtherService
}

export type Foundations = ReturnType<typeof foundations>

/** Where nothing else is said, bytes. */
const LEAST_DISK_BYTES = 500 * 1024 * 1024

export function foundations(options: FoundationOptions) {
  const { dataFolder, keyFile, elsewhere, leastDiskBytes = LEAST_DISK_BYTES, freeBytes } = options
  const faults = new InnerFaults(options.clock)
  const clock = tellingClock(options.clock, faults)
  mkdirSync(join(dataFolder, 'runs'), { recursive: true })
  // What is in it is nobody else's, whatever made it.
  chmodSync(dataFolder, 0o700)
  const databaseFile = join(dataFolder, 'vornak.db')
  const store = openStore(databaseFile)
  const machines = machineStore(store)
  const news = new News(clock, () => machines.countOut())
  const facts = factStore(store)
  const installation = factOnce(facts, 'installation', () => `vornak-${randomBytes(3).toString('hex')}`)
  const sealing = sealingWith(keyFile, isAnythingSealed(store))
  const secret = sealedOnce(facts, sealing, 'secret', () => randomBytes(32).toString('base64url'))
  const links = new SharedLinks(sharedLinkStore(store), clock)
  const runStreams = runStreamStore(store)
  const disk = new Disk(dataFolder, leastDiskBytes, clock, freeBytes)
  return {
    clock,
    store,
    databaseFile,
    news,
    people: new People(peopleStore(store), clock, elsewhere, installation, links, runStreams),
    links,
    faults,
    trail: new Trail(trailStore(store), clock),
    sealing,
    /** What is wrong with the key file; undefined: it opens what was sealed. */
    keyTrouble: sealing.trouble ?? otherKey(keyFile, secret),
    disk,
    tables: {
      accounts: accountStore(store),
      capacities: capacityStore(store),
      dispatches: dispatchStore(store),
      facts,
      hosts: hostStore(store),
      invitations: invitationStore(store),
      library: libraryStore(store),
      machines,
      outbox: outboxStore(store),
      reports: reportStore(store),
      rollCalls: rollCallStore(store),
      runStreams,
      runs: runStore(store, runId => news.runChanged(runId)),
    },
    /** Raised with every process: generators tell by it that it is another one. */
    epoch: nextEpoch(facts),
    /** Tokens are derived from it, so that an interrupted order can be repeated. */
    secret,
    /** Prefix of all machine names, by which strays are recognised as ours. */
    installation,
    /** Labels of installations this one was restored from. */
    formerInstallations: fromStore<string[]>(facts.get(FORMER_INSTALLATIONS) ?? '[]'),
    filesFolder: join(dataFolder, 'files'),
    runFile: (runId: number) => join(dataFolder, 'runs', `run-${runId}.db`),
    /** What a run's target said of itself. */
    targetFile: (runId: number) => join(dataFolder, 'runs', `run-${runId}-target.db`),
    close() {
      disk.close()
      store.close()
    },
  }
}

function nextEpoch(facts: FactStore): number {
  const epoch = Number(facts.get('epoch') ?? 0) + 1
  facts.set('epoch', String(epoch))
  return epoch
}

/** A fact that is made once and kept for ever. */
function factOnce(facts: FactStore, name: string, make: () => string): string {
  const fact = facts.get(name) ?? make()
  facts.set(name, fact)
  return fact
}

/** The same, sealed at rest. @returns reads it; throws CannotUnseal while its key is gone */
function sealedOnce(facts: FactStore, sealing: Sealing, name: string, make: () => string): () => string {
  const sealed = `${name}-sealed`
  const plain = facts.get(name)
  if (!sealing.trouble && (plain !== undefined || facts.get(sealed) === undefined)) {
    facts.set(sealed, sealing.seal(plain ?? make(), sealed).toString('base64'))
    // As earlier releases kept it.
    facts.drop(name)
  }
  return () => plain ?? sealing.unseal(Buffer.from(facts.get(sealed) ?? '', 'base64'), sealed)
}

/** Another key file than this data belongs to, in words. */
function otherKey(keyFile: string, secret: () => string): string | undefined {
  try {
    secret()
    return undefined
  }
  catch {
    return `The key file ${keyFile} is not the one this data was sealed with. Put that one back, or say with VORNAK_KEY_FILE where it is, and start again. Until then no run begins and no machine comes in.`
  }
}
