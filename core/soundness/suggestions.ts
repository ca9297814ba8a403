/**
 * What a run's own load says of the capacities its fleet was sized by: offered when it is over, never applied in
 * silence.
 */
import { STOLEN_ASIDE_SHARE } from '../capacity/estimate'
import { SIGNAL_LIMITS } from '../capacity/signals'
import { worstBasis, type Basis } from '../fleet/capacity-book'
import type { SecondFigures } from '../merge/second-figures'
import { orderOfPlace } from '../fleet/order'
import type { RunDocument } from '../run/document'
import type { HealthByGenerator } from './health'
import { present } from '../values/present'

export interface CapacitySuggestion {
  capacityId: string
  machineType: string
  journeyName: string
  was: number
  suggests: number
  sentence: string
}

/** Seconds a generator must have carried a fair load. */
const FEWEST_SECONDS = 20
/** A load below this share of the CPU's limit says little of it. */
const FAIR_LOAD = 0.35
/** A smaller difference is no news. */
const NEWS_SHARE = 0.05

/**
 * The least sure of what the locations were sized by. A calibration is about capacity itself, and one who measured
 * elsewhere does not say; runs of earlier releases assumed.
 */
export function capacityBasisOf({ sizedBy, calibration, claimed }: RunDocument): Basis | undefined {
  if (calibration || claimed) return undefined
  return sizedBy ? worstBasis(sizedBy.map(s => s.basis)) : 'assumed'
}

/**
 * CPU is what follows from the load: a generator's share is held against what its capacity foretold for the users it
 * had. Only where a single capacity was used is it clear which one is off. As in a calibration, seconds in which
 * neighbours took CPU are set aside.
 *
 * @param generators in the order of their numbers, by location, then place
 */
// eslint-disable-next-line max-lines-per-function -- a list, in the order in which it is told
export function suggestionsOf(
  document: RunDocument,
  generators: readonly { name: string, location: number }[],
  health: HealthByGenerator,
  seconds: readonly SecondFigures[],
): CapacitySuggestion[] {
  const { plan, sizedBy = [], fleet } = document
  const seen = new Map<string, { of: CapacitySuggestion, ratios: number[] }>()
  const places = placesOf(generators)
  for (const [name, course] of health) {
    const { location, place } = present(places.get(name), `the place of ${name}`)
    const code = plan.locations[location]!.code
    const order = orderOfPlace(fleet, code, place)
    const known =
      sizedBy.find(s => s.location === code)?.capacities.filter(c => c.machineType === order?.type.name) ?? []
    const [capacity] = known
    if (known.length !== 1 || !capacity?.cpu || !order?.carries) continue
    const { shift } = order
    const part =
      order.carries /
      fleet
        .filter(o => o.location === code && !o.shift === !shift)
        .reduce((sum, o) => sum + o.machines * (o.carries ?? 0), 0)
    // Users of the peak come when all others are there.
    const others = fleet.find(o => o.location === code && o.shift)?.shift?.others ?? Number.POSITIVE_INFINITY
    const { users, base } = capacity.cpu
    for (const s of seconds) {
      const { cpuShare: cpu, stolenShare = 0 } = course[s.second] ?? {}
      const here = s.usersByLocation[location] ?? 0
      const there = (shift ? Math.max(0, here - others) : Math.min(here, others)) * part
      if (
        cpu === undefined ||
        stolenShare > STOLEN_ASIDE_SHARE ||
        cpu < FAIR_LOAD * SIGNAL_LIMITS.cpuShare ||
        there < 1
      )
        continue
      const foretold = ((SIGNAL_LIMITS.cpuShare - base) * there) / users
      if (cpu <= base || foretold <= 0) continue
      let of = seen.get(capacity.id)
      if (!of)
        seen.set(
          capacity.id,
          (of = {
            of: {
              capacityId: capacity.id,
              machineType: capacity.machineType,
              journeyName: capacity.journeyName,
              was: capacity.users,
              suggests: 0,
              sentence: '',
            },
            ratios: [],
          }),
        )
      of.ratios.push(foretold / (cpu - base))
    }
  }
  return [...seen.values()].flatMap(({ of, ratios }) => {
    if (ratios.length < FEWEST_SECONDS) return []
    const middle = [...ratios].sort((a, b) => a - b)[ratios.length >> 1]!
    const suggests = of.was * middle
    if (Math.abs(middle - 1) < NEWS_SHARE) return []
    return [
      {
        ...of,
        suggests,
        sentence: `By the CPU of its ${of.machineType}, this run suggests ${Math.round(suggests)} users rather than ${Math.round(of.was)}.`,
      },
    ]
  })
}

/** Where each generator stands at its location, by name. */
function placesOf(generators: readonly { name: string, location: number }[]) {
  const next = new Map<number, number>()
  return new Map(
    generators.map(({ name, location }) => {
      const place = next.get(location) ?? 0
      next.set(location, place + 1)
      return [name, { location, place }]
    }),
  )
}
