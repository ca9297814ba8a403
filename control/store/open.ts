/** Opens a database and brings it up to date; refuses one that a newer release has written. */
// eslint-disable-next-line @typescript-eslint/triple-slash-reference -- also the app’s type check sees this file
/// <reference path="./sql.d.ts" />
import { existsSync } from 'node:fs'
import Database from 'better-sqlite3'
import ground from './migrations/001-ground.sql'
import library from './migrations/002-library.sql'
import runGround from './migrations/run-001-ground.sql'
import libraryPlans from './migrations/003-plan-versions.sql'
import fleet from './migrations/004-fleet.sql'
import capacities from './migrations/005-capacities.sql'
import takeOvers from './migrations/006-take-overs.sql'
import eventsAbout from './migrations/007-events-about.sql'
import removed from './migrations/008-removed.sql'
import people from './migrations/009-people.sql'
import secretHosts from './migrations/010-secret-hosts.sql'
import keeping from './migrations/011-keeping.sql'
import runAbout from './migrations/012-run-about.sql'
import reports from './migrations/013-reports.sql'
import baselines from './migrations/014-baselines.sql'
import sourceTokens from './migrations/015-source-tokens.sql'
import sharedLinks from './migrations/016-shared-links.sql'
import dispatches from './migrations/017-dispatches.sql'
import runStreams from './migrations/018-run-streams.sql'
import openedArchives from './migrations/019-opened-archives.sql'
import clients from './migrations/020-clients.sql'
import unloaded from './migrations/021-unloaded.sql'
import folded from './migrations/022-folded.sql'
import runExemplars from './migrations/run-002-exemplars.sql'
import runPasses from './migrations/run-003-passes.sql'
import runAnswers from './migrations/run-004-answers.sql'
import runWholePasses from './migrations/run-005-whole-passes.sql'
import runBlocks from './migrations/run-006-blocks.sql'
import runMachineSums from './migrations/run-007-machine-sums.sql'
import runPacks from './migrations/run-008-packs.sql'
import runLongRuns from './migrations/run-009-long-runs.sql'
import targetGround from './migrations/target-001-ground.sql'

export type Store = Database.Database

const MAIN = [
  ground,
  library,
  libraryPlans,
  fleet,
  capacities,
  takeOvers,
  eventsAbout,
  removed,
  people,
  secretHosts,
  keeping,
  runAbout,
  reports,
  baselines,
  sourceTokens,
  sharedLinks,
  dispatches,
  runStreams,
  openedArchives,
  clients,
  unloaded,
  folded,
]
const RUN_FILE = [
  runGround,
  runExemplars,
  runPasses,
  runAnswers,
  runWholePasses,
  runBlocks,
  runMachineSums,
  runPacks,
  runLongRuns,
]
const TARGET_FILE = [targetGround]

/** The file was written by a newer release. */
export class NewerDatabase extends Error {
  override name = 'NewerDatabase'
}

/** Bringing it up to date has broken it. */
export class BrokenDatabase extends Error {
  override name = 'BrokenDatabase'
}

/** @param path a copy of what an earlier release wrote is left beside it before anything is changed */
export function openStore(path: string): Store {
  return open(path, MAIN, true)
}

/** Opens the file of one run. */
export function openRunFile(path: string): Store {
  return open(path, RUN_FILE)
}

/** Opens the file of what a run's target said of itself. */
export function openTargetFile(path: string): Store {
  return open(path, TARGET_FILE)
}

function open(path: string, migrations: readonly string[], copied = false): Store {
  const store = new Database(path)
  // SQLite answers this pragma with a number.
  const version = store.pragma('user_version', { simple: true }) as number
  if (version > migrations.length) {
    store.close()
    throw new NewerDatabase(
      `${path} is of version ${version}; this release knows version ${migrations.length}. Start the newer release that wrote it, or choose another folder with VORNAK_DATA.`,
    )
  }
  store.pragma('journal_mode = WAL')
  // What was said to be safe has reached the disk: generators delete what they were told is kept.
  store.pragma('synchronous = FULL')
  // Off while tables are made anew, as SQLite's own procedure for it says (sqlite.org/lang_altertable.html, section 7);
  // held on afterwards.
  store.pragma('foreign_keys = OFF')
  if (copied && version > 0 && version < migrations.length) copyBeside(store, path, version)
  for (let v = version; v < migrations.length; v++) {
    store.transaction(() => {
      store.exec(migrations[v]!)
      store.pragma(`user_version = ${v + 1}`)
    })()
  }
  // SQLite answers this pragma with a row for each reference that leads nowhere.
  const broken = version < migrations.length ? (store.pragma('foreign_key_check') as { table: string }[]) : []
  if (broken.length > 0) {
    store.close()
    throw new BrokenDatabase(
      `${path} was brought up to date from version ${version}, and ${broken.length} rows of ${broken[0]!.table} refer to nothing now. As it was before, it stands beside it as ${copyName(path, version)}.`,
    )
  }
  store.pragma('foreign_keys = ON')
  return store
}

const copyName = (path: string, version: number) => `${path}.version-${version}`

/** Once a version: a second attempt must not write what the first one broke over what was whole. */
function copyBeside(store: Store, path: string, version: number): void {
  const copy = copyName(path, version)
  if (!existsSync(copy)) store.prepare('VACUUM INTO ?').run(copy)
}
