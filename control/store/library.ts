/** Targets with their secrets, journeys in all their versions, files, feeds and plans in the store. */
import type { Client } from '../../core/client/client'
import type { Feed } from '../../core/journey/feed'
import type { Journey } from '../../core/journey/journey'
import type { Target } from '../../core/journey/target'
import { upgradeJourney } from '../../core/journey/upgrade'
import type { NetworkProfile } from '../../core/network/profile'
import type { Plan } from '../../core/plan/document'
import { upgradePlan } from '../../core/plan/upgrade'
import type { Store } from './open'
import { removedStore } from './removed'
import { fromStore } from './from-store'

export interface StoredPlan {
  id: string
  version: number
  savedAt: number
  plan: Plan
  archived: boolean
}
export interface StoredJourney {
  id: string
  version: number
  savedAt: number
  journey: Journey
}
export interface StoredFile {
  id: string
  name: string
  bytes: number
  addedAt: number
}

export type LibraryStore = ReturnType<typeof libraryStore>

// eslint-disable-next-line max-lines-per-function -- the statements of a table stand with what they are asked for
export function libraryStore(store: Store) {
  const targetById = store.prepare<[string], { document: string }>('SELECT document FROM targets WHERE id = ?')
  const allTargets = store.prepare<[], { document: string }>('SELECT document FROM targets ORDER BY id')
  const putTarget = store.prepare(`
    INSERT INTO targets (id, document)
    VALUES (@id, @document)
    ON CONFLICT (id)
    DO UPDATE SET document = excluded.document
  `)
  const secretsOf = store.prepare<[string], { name: string, sealed: Buffer, hosts: string | null }>(
    'SELECT name, sealed, hosts FROM secrets WHERE target_id = ? ORDER BY name',
  )
  const putSecret = store.prepare(`
    INSERT INTO secrets (target_id, name, sealed, hosts)
    VALUES (@target, @name, @sealed, @hosts)
    ON CONFLICT (target_id, name)
    DO UPDATE SET sealed = excluded.sealed, hosts = excluded.hosts
  `)
  const dropSecret = store.prepare('DELETE FROM secrets WHERE target_id = ? AND name = ?')
  const journeyAt = store.prepare<[string, number], JourneyRow>(`
    SELECT id, version, saved_at, document
    FROM journey_versions
    WHERE id = ? AND version = ?
  `)
  const journeyLast = store.prepare<[string], JourneyRow>(`
    SELECT id, version, saved_at, document
    FROM journey_versions
    WHERE id = ?
    ORDER BY version DESC
    LIMIT 1
  `)
  const journeyHistory = store.prepare<[string], { version: number, saved_at: number, document: string }>(`
    SELECT version, saved_at, document
    FROM journey_versions
    WHERE id = ?
    ORDER BY version DESC
  `)
  const lastJourneys = store.prepare<[], JourneyRow>(`
    SELECT id, version, saved_at, document
    FROM journey_versions AS j
    WHERE version = (SELECT MAX(version) FROM journey_versions WHERE id = j.id)
    ORDER BY saved_at, id`)
  const putJourney = store.prepare(`
    INSERT INTO journey_versions (id, version, saved_at, document)
    VALUES (@id, @version, @savedAt, @document)
  `)
  const fileById = store.prepare<[string], FileRow>('SELECT id, name, bytes, added_at FROM files WHERE id = ?')
  // A document names a file by its id, which is 64 digits that stand nowhere by chance.
  const unusedFiles = store.prepare<[number], FileRow>(`
    SELECT id, name, bytes, added_at
    FROM files AS f
    WHERE added_at < ?
      AND NOT EXISTS (SELECT 1 FROM journey_versions WHERE instr(document, f.id))
      AND NOT EXISTS (SELECT 1 FROM plan_versions WHERE instr(document, f.id))
      AND NOT EXISTS (SELECT 1 FROM feeds WHERE instr(document, f.id))
      AND NOT EXISTS (SELECT 1 FROM runs WHERE instr(document, f.id))
      AND NOT EXISTS (SELECT 1 FROM removed WHERE instr(rows, f.id))
    ORDER BY added_at
  `)
  const dropFile = store.prepare('DELETE FROM files WHERE id = ?')
  const allFiles = store.prepare<[], FileRow>('SELECT id, name, bytes, added_at FROM files ORDER BY added_at')
  const putFile = store.prepare(`
    INSERT INTO files (id, name, bytes, added_at)
    VALUES (@id, @name, @bytes, @addedAt)
    ON CONFLICT (id)
    DO NOTHING
  `)
  const allFeeds = store.prepare<[], { document: string }>('SELECT document FROM feeds ORDER BY added_at')
  const putFeed = store.prepare(`
    INSERT INTO feeds (id, added_at, document)
    VALUES (@id, @addedAt, @document)
    ON CONFLICT (id)
    DO UPDATE SET document = excluded.document
  `)
  const planColumns =
    'id, version, saved_at, document, EXISTS (SELECT 1 FROM archived_plans AS a WHERE a.id = p.id) AS archived'
  const planLast = store.prepare<[string], PlanRow>(
    `SELECT ${planColumns} FROM plan_versions AS p WHERE id = ? ORDER BY version DESC LIMIT 1`,
  )
  const planAt = store.prepare<[string, number], PlanRow>(
    `SELECT ${planColumns} FROM plan_versions AS p WHERE id = ? AND version = ?`,
  )
  const planHistory = store.prepare<[string], PlanRow>(
    `SELECT ${planColumns} FROM plan_versions AS p WHERE id = ? ORDER BY version DESC`,
  )
  const lastPlans = store.prepare<[], PlanRow>(`
    SELECT ${planColumns}
    FROM plan_versions AS p
    WHERE version = (SELECT MAX(version) FROM plan_versions WHERE id = p.id)
    ORDER BY saved_at DESC`)
  const putPlan = store.prepare(`
    INSERT INTO plan_versions (id, version, saved_at, document)
    VALUES (@id, @version, @savedAt, @document)
  `)
  const archive = store.prepare(`
    INSERT INTO archived_plans (id, archived_at)
    VALUES (?, ?)
    ON CONFLICT (id)
    DO NOTHING
  `)
  const unarchive = store.prepare('DELETE FROM archived_plans WHERE id = ?')
  const allNetworks = store.prepare<[], { document: string }>('SELECT document FROM networks ORDER BY id')
  const allClients = store.prepare<[], { document: string }>('SELECT document FROM clients ORDER BY id')
  const putClient = store.prepare(`
    INSERT INTO clients (id, document)
    VALUES (@id, @document)
    ON CONFLICT (id)
    DO UPDATE SET document = excluded.document
  `)
  const putNetwork = store.prepare(`
    INSERT INTO networks (id, document)
    VALUES (@id, @document)
    ON CONFLICT (id)
    DO UPDATE SET document = excluded.document
  `)

  return {
    ...removedStore(store),
    target: (id: string) => parsed<Target>(targetById.get(id)),
    targets: () => allTargets.all().map(r => fromStore<Target>(r.document)),
    saveTarget: (target: Target) => {
      putTarget.run({ id: target.id, document: JSON.stringify(target) })
    },
    secrets: (targetId: string) => secretsOf.all(targetId),
    /** @param hosts it was given for, with blanks between */
    saveSecret: (target: string, name: string, sealed: Buffer, hosts: string) => {
      putSecret.run({ target, name, sealed, hosts })
    },
    dropSecret: (target: string, name: string) => {
      dropSecret.run(target, name)
    },

    journey: (id: string, version?: number): StoredJourney | undefined => {
      const row = version === undefined ? journeyLast.get(id) : journeyAt.get(id, version)
      return row && storedJourney(row)
    },
    journeys: () => lastJourneys.all().map(storedJourney),
    journeyHistory: (id: string) =>
      journeyHistory
        .all(id)
        .map(r => ({
          version: r.version,
          savedAt: r.saved_at,
          name: fromStore<{ name: string }>(r.document).name,
        })),
    /**
     * Saves as the next version, unless somebody else saved in between: then nothing is written and undefined comes
     * back.
     */
    saveJourney: store.transaction((journey: Journey, onVersion: number, now: number): StoredJourney | undefined => {
      if ((journeyLast.get(journey.id)?.version ?? 0) !== onVersion) return undefined
      const row = {
        id: journey.id,
        version: onVersion + 1,
        savedAt: Math.round(now),
        document: JSON.stringify(journey),
      }
      putJourney.run(row)
      return { id: row.id, version: row.version, savedAt: row.savedAt, journey }
    }),

    file: (id: string): StoredFile | undefined => {
      const row = fileById.get(id)
      return row && storedFile(row)
    },
    files: () => allFiles.all().map(storedFile),
    /** Nothing refers to them: no version of a journey or plan, no feed, no run, nothing that was removed. */
    unusedFiles: (addedBefore: number) => unusedFiles.all(addedBefore).map(storedFile),
    dropFile: (id: string) => {
      dropFile.run(id)
    },
    saveFile: (file: StoredFile) => {
      putFile.run({ ...file, addedAt: Math.round(file.addedAt) })
    },
    feeds: () => allFeeds.all().map(r => fromStore<Feed>(r.document)),
    saveFeed: (feed: Feed, now: number) => {
      putFeed.run({ id: feed.id, addedAt: Math.round(now), document: JSON.stringify(feed) })
    },

    networks: () => allNetworks.all().map(r => fromStore<NetworkProfile>(r.document)),
    saveNetwork: (profile: NetworkProfile) => {
      putNetwork.run({ id: profile.id, document: JSON.stringify(profile) })
    },

    clients: () => allClients.all().map(r => fromStore<Client>(r.document)),
    saveClient: (client: Client) => {
      putClient.run({ id: client.id, document: JSON.stringify(client) })
    },

    plan: (id: string, version?: number): StoredPlan | undefined => {
      const row = version === undefined ? planLast.get(id) : planAt.get(id, version)
      return row && storedPlan(row)
    },
    plans: () => lastPlans.all().map(storedPlan),
    planHistory: (id: string) => planHistory.all(id).map(storedPlan),
    archivePlan: (id: string, archived: boolean, now: number) => {
      if (archived) archive.run(id, Math.round(now))
      else unarchive.run(id)
    },
    /**
     * Saves as the next version, unless somebody else saved in between: then nothing is written and undefined comes
     * back.
     */
    savePlan: store.transaction((id: string, plan: Plan, onVersion: number, now: number): StoredPlan | undefined => {
      const before = planLast.get(id)
      if ((before?.version ?? 0) !== onVersion) return undefined
      putPlan.run({ id, version: onVersion + 1, savedAt: Math.round(now), document: JSON.stringify(plan) })
      return { id, version: onVersion + 1, savedAt: Math.round(now), plan, archived: before?.archived === 1 }
    }),
  }
}

interface PlanRow {
  id: string
  version: number
  saved_at: number
  document: string
  archived: number
}
type JourneyRow = Omit<PlanRow, 'archived'>
interface FileRow {
  id: string
  name: string
  bytes: number
  added_at: number
}

function storedPlan(row: PlanRow): StoredPlan {
  return {
    id: row.id,
    version: row.version,
    savedAt: row.saved_at,
    plan: upgradePlan(fromStore(row.document)),
    archived: row.archived === 1,
  }
}

function storedJourney(row: JourneyRow): StoredJourney {
  return {
    id: row.id,
    version: row.version,
    savedAt: row.saved_at,
    journey: upgradeJourney(fromStore(row.document)),
  }
}

function storedFile(row: FileRow): StoredFile {
  return { id: row.id, name: row.name, bytes: row.bytes, addedAt: row.added_at }
}

function parsed<T>(row: { document: string } | undefined): T | undefined {
  return row && fromStore<T>(row.document)
}
