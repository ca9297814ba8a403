/** Targets, journeys and plans in the store. */
import type { Journey, Target } from '../../core/journey/journey'
import type { Plan } from '../../core/plan/document'
import type { Store } from './open'

export interface StoredPlan { id: string, version: number, savedAt: number, plan: Plan }

export type LibraryStore = ReturnType<typeof libraryStore>

export function libraryStore(store: Store) {
  const targetById = store.prepare<[string], { document: string }>('SELECT document FROM targets WHERE id = ?')
  const allTargets = store.prepare<[], { document: string }>('SELECT document FROM targets ORDER BY id')
  const putTarget = store.prepare('INSERT INTO targets (id, document) VALUES (@id, @document) ON CONFLICT (id) DO UPDATE SET document = excluded.document')
  const allJourneys = store.prepare<[], { document: string }>('SELECT document FROM journeys ORDER BY rowid')
  const putJourney = store.prepare('INSERT INTO journeys (id, document) VALUES (@id, @document) ON CONFLICT (id) DO UPDATE SET document = excluded.document')
  const planById = store.prepare<[string], PlanRow>('SELECT id, version, saved_at, document FROM plans WHERE id = ?')
  const allPlans = store.prepare<[], PlanRow>('SELECT id, version, saved_at, document FROM plans ORDER BY saved_at DESC')
  const putPlan = store.prepare(`
    INSERT INTO plans (id, version, saved_at, document)
    VALUES (@id, @version, @savedAt, @document)
    ON CONFLICT (id) DO UPDATE SET version = excluded.version, saved_at = excluded.saved_at, document = excluded.document`)

  return {
    target: (id: string) => parsed<Target>(targetById.get(id)),
    targets: () => allTargets.all().map(r => JSON.parse(r.document) as Target),
    saveTarget: (target: Target) => { putTarget.run({ id: target.id, document: JSON.stringify(target) }) },
    journeys: () => allJourneys.all().map(r => JSON.parse(r.document) as Journey),
    saveJourney: (journey: Journey) => { putJourney.run({ id: journey.id, document: JSON.stringify(journey) }) },
    plan: (id: string) => {
      const row = planById.get(id)
      return row && storedPlan(row)
    },
    plans: () => allPlans.all().map(storedPlan),
    /** Saves as the next version, unless somebody else saved in between: then nothing is written and undefined comes back. */
    savePlan: store.transaction((id: string, plan: Plan, onVersion: number, now: number): StoredPlan | undefined => {
      const before = planById.get(id)
      if ((before?.version ?? 0) !== onVersion) return undefined
      putPlan.run({ id, version: onVersion + 1, savedAt: Math.round(now), document: JSON.stringify(plan) })
      return { id, version: onVersion + 1, savedAt: Math.round(now), plan }
    }),
  }
}

interface PlanRow { id: string, version: number, saved_at: number, document: string }

function storedPlan(row: PlanRow): StoredPlan {
  return { id: row.id, version: row.version, savedAt: row.saved_at, plan: JSON.parse(row.document) as Plan }
}

function parsed<T>(row: { document: string } | undefined): T | undefined {
  return row && JSON.parse(row.document) as T
}
