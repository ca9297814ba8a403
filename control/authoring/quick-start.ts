/**
 * From pasted addresses to something that can be tried: a journey, a target that waits for approval, and a small plan.
 */
import type { HttpJourney } from '../../core/journey/journey'
import type { Target } from '../../core/journey/target'
import type { Plan } from '../../core/plan/document'
import type { RegionOffer } from '../../core/offers/machine-type'
import type { Library } from '../library/library'

export interface QuickStarted {
  journeyId: string
  targetId: string
  planId: string
}

/** @param made of the addresses */
export function quickStart(
  library: Library,
  made: { journey: HttpJourney, target: Target },
  offers: Record<string, RegionOffer[] | undefined>,
): QuickStarted {
  const target = targetFor(library, made.target.baseUrl, made.target.name)
  const journey = library.saveJourney({
    ...made.journey,
    id: library.freeId(made.journey.name, id => library.store.journey(id) !== undefined),
  }).journey
  const planId = library.freeId(`first look at ${target.name}`, id => library.plan(id) !== undefined)
  library.savePlan(planId, smallPlan(target, journey.id, offers), 0)
  return { journeyId: journey.id, targetId: target.id, planId }
}

/** The target at this address, made if nobody knows it. It sends nothing before its owner has agreed. */
export function targetFor(library: Library, baseUrl: string, name: string): Target {
  const known = library.targets().find(t => t.baseUrl.replace(/\/+$/, '') === baseUrl.replace(/\/+$/, ''))
  return (
    known ??
    library.saveTarget({
      id: library.freeId(name, id => library.target(id) !== undefined),
      name,
      environment: 'test',
      baseUrl,
    })
  )
}

/** Ten users for a minute, from the first location that is offered. */
function smallPlan(target: Target, journeyId: string, offers: Record<string, RegionOffer[] | undefined>): Plan {
  const [provider, regions] = Object.entries(offers).find(([, r]) => r && r.length > 0) ?? ['', undefined]
  const region = regions?.[0]
  const type = region?.types[0]
  const code = (region?.region ?? 'here')
    .toUpperCase()
    .replace(/[^A-Z]/g, '')
    .padEnd(3, 'X')
    .slice(0, 3)
  return {
    schema: 'vornak-plan/3',
    name: `First look at ${target.name}`.slice(0, 80),
    question: `Does ${target.name} answer ten users within a second?`.slice(0, 300),
    targetId: target.id,
    groups: [
      {
        letter: 'A',
        name: 'Visitors',
        journeyId,
        profile: {
          startDelayMs: 0,
          segments: [
            { to: 10, overMs: 10_000 },
            { to: 10, overMs: 45_000 },
            { to: 0, overMs: 5000 },
          ],
        },
      },
    ],
    locations: [{ code, provider, region: region?.region ?? '', machineType: type?.name ?? '', machines: 'auto' }],
    placement: { A: { [code]: 'rest' } },
    objectives: [
      { metric: 'p95', atMost: 1000 },
      { metric: 'failures', atMost: 0.01 },
    ],
    assumedUsersPerVcpu: 60,
    rehearse: true,
    keepMachinesMin: 0,
    seed: 1,
  }
}
