/**
 * Locations of one region share its quota. What is pinned by hand has its machines. For the others it is asked what
 * they cost at least with no more than a number of machines, for every number that makes a difference; of those
 * the ones are taken that fit together and cost least.
 */
import { ownOf } from '../values/own'
import { costIn, NOBODY, takenBy, takenTogether, type LocationOptions, type Taken } from './place'

/** Numbers of machines that are tried at a location: far fewer make a difference. */
const MOST_TRIED = 60
/** Searches with fewer machines than are cheapest are short ones. */
const TRIED_BRANCHES = 4000

interface Way extends Taken {
  cost: number
}
interface Chosen {
  machines: number
  cost: number
  shares: Taken[]
}

/** Is asked for one location after the other, in the order of the plan. */
export class RegionQuota {
  private readonly shares: Taken[]
  private readonly free: number
  private taken = NOBODY

  /** @param places of one region, each as if it had all of its quota to itself */
  constructor(places: readonly LocationOptions[]) {
    this.free = places[0]?.wishes.mostMachines ?? 0
    this.shares = places.length > 1 ? shareQuota(places, this.free) : [NOBODY]
  }

  /** Machines that are not the next location's: those before it have them, or they are left for those after it. */
  get others(): Taken {
    return takenTogether([this.taken, ...this.shares.slice(1)])
  }

  /** What the next location takes. More than there are at all leaves the others as they were. */
  take(taken: Taken): void {
    if (taken.machines <= this.free) this.taken = takenTogether([this.taken, taken])
    this.shares.shift()
  }
}

/**
 * @returns machines each is left at least; where they do not fit together, the first have the fewest they can do with
 */
function shareQuota(places: readonly LocationOptions[], free: number): Taken[] {
  const ways = places.map(place => waysOf(place, free))
  const fits = (shares: readonly Taken[]) => fitTogether(places[0]!, shares)
  const cheapestEach = ways.map(([first = NOBODY]) => first)
  if (fits(cheapestEach)) return cheapestEach
  return cheapestTogether(ways, fits)?.shares ?? fewestInTurn(ways, free)
}

/** Whether these can all be had in the region: machines that wait serve one location each. */
function fitTogether({ offer: { quota, waiting = {} } }: LocationOptions, shares: readonly Taken[]): boolean {
  const { machines, byType } = takenTogether(shares)
  const ready = Object.entries(byType).reduce((sum, [type, n]) => sum + Math.min(n, ownOf(waiting, type) ?? 0), 0)
  return machines - ready <= Math.max(0, quota.most - quota.used)
}

/**
 * From the cheapest to that with the fewest machines. One that does not fit into all of the quota asks for nothing of
 * it.
 */
function waysOf(place: LocationOptions, free: number): Way[] {
  const nothing: Way = { ...NOBODY, cost: 0 }
  if (place.users === 0) return [nothing]
  if (place.location.choose !== 'cheapest') {
    const pinned = place.pinned()
    const machines = pinned ? place.pinnedCount(pinned) : 0
    return [pinned && machines <= free ? { ...takenBy([pinned], [machines]), cost: 0 } : nothing]
  }
  const candidates = place.candidates()
  const ways: Way[] = []
  const keep = (counts: readonly number[]) =>
    ways.push({ ...takenBy(candidates, counts), cost: costIn(candidates, counts) })
  let found = place.take()?.counts
  while (found && ways.length < MOST_TRIED) {
    keep(found)
    const { machines } = ways[ways.length - 1]!
    found = place.take({ mostMachines: machines - 1, mostBranches: TRIED_BRANCHES })?.counts
  }
  const fewest = found && place.take({ fewest: 'machines' })?.counts
  if (fewest) keep(fewest)
  return ways.length > 0 ? ways : [nothing]
}

/**
 * Location by location, what may still lead to the least sum: of equally many machines the cheapest, of equal cost the
 * fewest.
 */
function cheapestTogether(
  ways: readonly (readonly Way[])[],
  fits: (shares: readonly Taken[]) => boolean,
): Chosen | undefined {
  let chosen: Chosen[] = [{ machines: 0, cost: 0, shares: [] }]
  for (const here of ways) {
    const all = chosen.flatMap(c =>
      here.map((w): Chosen => ({ machines: c.machines + w.machines, cost: c.cost + w.cost, shares: [...c.shares, w] })),
    )
    chosen = []
    for (const c of all.filter(a => fits(a.shares)).sort((a, b) => a.machines - b.machines || a.cost - b.cost)) {
      if (c.cost < (chosen.at(-1)?.cost ?? Number.POSITIVE_INFINITY)) chosen.push(c)
    }
  }
  return chosen.at(-1)
}

/** What they leave is for the first that does not fit: what it lacks then is what all lack together. */
function fewestInTurn(ways: readonly (readonly Way[])[], free: number): Taken[] {
  const shares: Taken[] = ways.map(() => NOBODY)
  let left = free
  let lacking: number | undefined
  // What is pinned comes first: it has no choice.
  const order = ways.map((_, i) => i).sort((a, b) => Number(ways[a]!.length > 1) - Number(ways[b]!.length > 1) || a - b)
  for (const i of order) {
    const fewest = ways[i]!.at(-1) ?? NOBODY
    if (fewest.machines > left) {
      lacking ??= i
      continue
    }
    shares[i] = fewest
    left -= fewest.machines
  }
  if (lacking !== undefined) shares[lacking] = { machines: left, byType: {} }
  return shares
}
