/**
 * Locations of one region share its quota. What is pinned by hand has its machines. For the others it is asked what they cost at least with no more than so
 * many machines, for every number that makes a difference; of those the ones are taken that fit together and cost least.
 */
import { costIn, machinesIn, type Place } from './place'

/** Numbers of machines that are tried at a location: far fewer make a difference. */
const MOST_TRIED = 60
/** Searches with fewer machines than are cheapest are short ones. */
const TRIED_BRANCHES = 4000

interface Way { machines: number, cost: number }
interface Chosen extends Way { shares: number[] }

/** Is asked for one location after the other, in the order of the plan. */
export class RegionQuota {
  private readonly shares: number[]
  private readonly free: number
  private taken = 0

  /** @param places of one region, each as if it had all of its quota to itself */
  constructor(places: readonly Place[]) {
    this.free = places[0]?.wishes.mostMachines ?? 0
    this.shares = places.length > 1 ? shareQuota(places, this.free) : [0]
  }

  /** Machines that are not the next location's: those before it have them, or they are left for those after it. */
  get others(): number { return this.taken + machinesIn(this.shares.slice(1)) }

  /** The next location takes so many. More than there are at all leave the others as they were. */
  take(machines: number): void {
    if (machines <= this.free) this.taken += machines
    this.shares.shift()
  }
}

/** @returns machines each is left at least; where they do not fit together, the first have the fewest they can do with */
function shareQuota(places: readonly Place[], free: number): number[] {
  const ways = places.map(place => waysOf(place, free))
  if (ways.reduce((sum, [first]) => sum + first!.machines, 0) <= free) return ways.map(([first]) => first!.machines)
  return cheapestTogether(ways, free)?.shares ?? fewestInTurn(ways, free)
}

/** From the cheapest to that with the fewest machines. One that does not fit into all of the quota asks for nothing of it. */
function waysOf(place: Place, free: number): Way[] {
  const nothing = { machines: 0, cost: 0 }
  if (place.users === 0) return [nothing]
  if (place.location.choose !== 'cheapest') {
    const pinned = place.pinned()
    const machines = pinned ? place.pinnedCount(pinned) : 0
    return [machines <= free ? { machines, cost: 0 } : nothing]
  }
  const candidates = place.candidates()
  const ways: Way[] = []
  const keep = (counts: readonly number[]) => ways.push({ machines: machinesIn(counts), cost: costIn(candidates, counts) })
  let found = place.take()?.counts
  while (found && ways.length < MOST_TRIED) {
    keep(found)
    found = place.take({ mostMachines: ways.at(-1)!.machines - 1, mostBranches: TRIED_BRANCHES })?.counts
  }
  const fewest = found && place.take({ fewest: 'machines' })?.counts
  if (fewest) keep(fewest)
  return ways.length > 0 ? ways : [nothing]
}

/** Location by location, what may still lead to the least sum: of equally many machines the cheapest, of equal cost the fewest. */
function cheapestTogether(ways: readonly (readonly Way[])[], free: number): Chosen | undefined {
  let chosen: Chosen[] = [{ machines: 0, cost: 0, shares: [] }]
  for (const here of ways) {
    const all = chosen.flatMap(c => here.map((w): Chosen => ({ machines: c.machines + w.machines, cost: c.cost + w.cost, shares: [...c.shares, w.machines] })))
    chosen = []
    for (const c of all.filter(a => a.machines <= free).sort((a, b) => a.machines - b.machines || a.cost - b.cost)) {
      if (c.cost < (chosen.at(-1)?.cost ?? Number.POSITIVE_INFINITY)) chosen.push(c)
    }
  }
  return chosen.at(-1)
}

/** What they leave is for the first that does not fit: what it lacks then is what all lack together. */
function fewestInTurn(ways: readonly (readonly Way[])[], free: number): number[] {
  const shares = ways.map(() => 0)
  let left = free
  let lacking: number | undefined
  // What is pinned comes first: it has no choice.
  const order = ways.map((_, i) => i).sort((a, b) => Number(ways[a]!.length > 1) - Number(ways[b]!.length > 1) || a - b)
  for (const i of order) {
    const { machines } = ways[i]!.at(-1)!
    if (machines > left) {
      lacking ??= i
      continue
    }
    shares[i] = machines
    left -= machines
  }
  if (lacking !== undefined) shares[lacking] = left
  return shares
}
