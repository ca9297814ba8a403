/**
 * From pasted addresses to something that can be tried: a journey, a target that waits for approval, and a small plan.
 */
import type { HttpJourney } from '../../core/journey/journey'
import type { Approval, Target } from '../../core/journey/target'
import { freeCode } from '../../core/plan/location-code'
import type { Location, Plan } from '../../core/plan/document'
import { spreadEvenly } from '../../core/plan/presets'
import type { RegionOffer } from '../../core/offers/machine-type'
import { notFound } from '../errors'
import type { Library } from '../library/library'

export interface QuickStarted {
  journeyId: string
  targetId: string
  planId: string
}

/** What the first plan asks; left out, ten users for a minute from the first location that is offered. */
export interface QuickAsk {
  /** At the peak. */
  users?: number
  /** How long they are held, s. */
  holdS?: number
  places?: { provider: string, region: string }[]
  /** What the target's owner has agreed to; one that is recorded already stays. */
  approval?: Approval
}

/** Users that come in a second, so that nobody starts all at once; and the least and the longest ramp, s. */
const RAMP_USERS_PER_S = 5
const LEAST_RAMP_S = 5
const LONGEST_RAMP_S = 120

/**
 * @param made of the addresses
 * @throws ControlError when a place is not offered
 */
export function quickStart(
  library: Library,
  made: { journey: HttpJourney, target: Target },
  offers: Record<string, RegionOffer[] | undefined>,
  ask: QuickAsk = {},
): QuickStarted {
  const locations = locationsAt(ask.places ?? [], offers)
  const { approval } = ask
  const found = targetFor(library, made.target.baseUrl, made.target.name)
  const target = approval && !found.approval ? library.saveTarget({ ...found, approval }) : found
  const journey = library.saveJourney({
    ...made.journey,
    id: library.freeId(made.journey.name, id => library.store.journey(id) !== undefined),
  }).journey
  const planId = library.freeId(`first look at ${target.name}`, id => library.plan(id) !== undefined)
  library.savePlan(planId, firstPlan(target, journey.id, locations, ask), 0)
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

/** Locations at these places, each with the smallest type there; without any, at the first that is offered. */
function locationsAt(
  places: NonNullable<QuickAsk['places']>,
  offers: Record<string, RegionOffer[] | undefined>,
): Location[] {
  const [provider = '', regions] = Object.entries(offers).find(([, r]) => r && r.length > 0) ?? []
  const wanted = places.length > 0 ? places : [{ provider, region: regions?.[0]?.region ?? '' }]
  const taken = new Set<string>()
  return wanted.map(({ provider, region }) => {
    const offer = offers[provider]?.find(r => r.region === region)
    if (!offer && places.length > 0) throw notFound(`region ${region} of ${provider}`)
    const code = freeCode(region || 'here', taken)
    taken.add(code)
    return { code, provider, region, machineType: offer?.types[0]?.name ?? '', machines: 'auto' }
  })
}

function firstPlan(
  target: Target,
  journeyId: string,
  locations: Location[],
  { users = 10, holdS = 45 }: QuickAsk,
): Plan {
  const ramp = Math.min(LONGEST_RAMP_S, Math.max(LEAST_RAMP_S, Math.ceil(users / RAMP_USERS_PER_S))) * 1000
  return {
    schema: 'vornak-plan/3',
    name: `First look at ${target.name}`.slice(0, 80),
    question: `Does ${target.name} answer ${users === 1 ? 'one user' : `${users} users`} within a second?`.slice(0, 300),
    targetId: target.id,
    groups: [
      {
        letter: 'A',
        name: 'Visitors',
        journeyId,
        profile: {
          startDelayMs: 0,
          segments: [
            { to: users, overMs: ramp },
            { to: users, overMs: holdS * 1000 },
            { to: 0, overMs: 5000 },
          ],
        },
      },
    ],
    locations,
    placement: { A: spreadEvenly(locations) },
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
