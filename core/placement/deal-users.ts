/**
 * Gives every user of a plan its place, before the run: a location, and there a generator, a network and a client. A
 * pure function, so that any generator computes its own users from the plan and its index.
 */
import { periodOf, quotaSequence, type BasisPoints } from './quota-method'

/** A group to place: its number of users at peak, and for each location a weight and a network mix. */
export interface GroupToPlace {
  users: number
  /** Weight per location, basis points; same order and length as the locations. */
  shares: readonly BasisPoints[]
  /** Per location, the weights of its networks in basis points; one entry when there is no mix. */
  networks: readonly (readonly BasisPoints[])[]
  /** The weights of its clients; left out: there is one. */
  clients?: readonly BasisPoints[]
  /** Its users are not there at once and weigh nothing against those of other groups. */
  apart?: boolean
  /** Per location: users numbered above this are played by its generators for the peak; left out: by the others. */
  above?: readonly (number | undefined)[]
}

/** Capacity of each generator at a location, any unit; only their proportions count. */
export interface LocationToFill {
  generators: readonly number[]
  /** Per generator: it is there for the peak only; left out: none is. */
  peak?: readonly boolean[]
}

/** Where users go, and by what: entry u of `locationOf` is user u+1's location index, and so on. */
export interface DealtGroup {
  locationOf: Uint16Array
  generatorOf: Uint16Array
  networkOf: Uint16Array
  clientOf: Uint16Array
}

/**
 * @returns one entry per group, in order
 * @throws RangeError when a group has users but no location with a share above 0, or a location with users has no
 * generator
 */
export function dealUsers(groups: readonly GroupToPlace[], locations: readonly LocationToFill[]): DealtGroup[] {
  const dealtLocations = dealLocations(groups, locations.length)
  const rooms = locations.map(layersOf)
  return groups.map((group, g) => {
    const locationOf = dealtLocations[g]!
    const generatorOf = new Uint16Array(group.users)
    const networkOf = new Uint16Array(group.users)
    const clientOf = new Uint16Array(group.users)
    const seats = locations.map((location, l) =>
      (group.apart ? layersOf(location) : rooms[l]!).map(room =>
        room.seatsFor(group.networks[l] ?? [1], group.clients),
      ),
    )
    for (let u = 0; u < group.users; u++) {
      const location = locationOf[u]!
      const layer = u + 1 > (group.above?.[location] ?? Number.POSITIVE_INFINITY) ? PEAK : THROUGH
      const seat = seats[location]![layer]!.next()
      generatorOf[u] = seat.generator
      networkOf[u] = seat.network
      clientOf[u] = seat.client
    }
    return { locationOf, generatorOf, networkOf, clientOf }
  })
}

/**
 * Only the first half: the location of every user of every group. Each group's sequence starts at the location whose
 * running total over the groups before is most behind, so that many small groups do not all fall to the first column.
 */
export function dealLocations(
  groups: readonly Pick<GroupToPlace, 'users' | 'shares'>[],
  locations: number,
): Uint16Array[] {
  const running = new RunningTotals(locations)
  return groups.map((group, g) => {
    const sequence = quotaSequence(group.shares, running.firstFor(group, g))
    const locationOf = new Uint16Array(group.users)
    const counts = new Array<number>(locations).fill(0)
    for (let u = 0; u < group.users; u++) counts[(locationOf[u] = sequence[u % sequence.length]!)]!++
    running.add(group, counts)
    return locationOf
  })
}

/** Counts of recent rows: while one types, all rows but one stay as they were. */
const recent = new Map<string, readonly number[]>()
const MOST_RECENT = 512

/**
 * How many users of each group each location gets: the counts of {@link dealLocations}, without dealing every user.
 * `[group][location]`
 *
 * @param present of each group how many, its first; left out: all
 */
export function countLocations(
  groups: readonly Pick<GroupToPlace, 'users' | 'shares'>[],
  locations: number,
  present?: readonly number[],
): number[][] {
  const running = new RunningTotals(locations)
  return groups.map((group, g) => {
    const first = running.firstFor(group, g)
    const counts = recentCounts(group, first, locations)
    running.add(group, counts)
    const there = present?.[g] ?? group.users
    return [
      ...(there === group.users ? counts : recentCounts({ shares: group.shares, users: there }, first, locations)),
    ]
  })
}

function recentCounts(
  group: Pick<GroupToPlace, 'users' | 'shares'>,
  first: number | undefined,
  locations: number,
): readonly number[] {
  const key = `${group.users}/${first}/${group.shares.join()}`
  let counts = recent.get(key)
  if (!counts) {
    if (recent.size >= MOST_RECENT) recent.clear()
    recent.set(key, (counts = countsIn(group, first, locations)))
  }
  return counts
}

/** Whole periods give every location its weight; only the users after the last whole one are dealt. */
function countsIn(
  { users, shares }: Pick<GroupToPlace, 'users' | 'shares'>,
  first: number | undefined,
  locations: number,
): number[] {
  const counts = new Array<number>(locations).fill(0)
  const period = periodOf(shares)
  if (period === 0) return counts
  const total = shares.reduce((sum, s) => sum + s, 0)
  const rounds = Math.floor(users / period)
  const rest = users % period
  shares.forEach((share, l) => {
    counts[l] = (rounds * share * period) / total
  })
  const sequence = sequenceFor(shares, first, rest)
  for (let u = 0; u < rest; u++) counts[sequence[u]!]!++
  return counts
}

/** Beginnings of recent sequences: a shorter one is the beginning of a longer one. */
const begun = new Map<string, Uint16Array>()

/** @returns at least this many users of the period */
function sequenceFor(shares: readonly BasisPoints[], first: number | undefined, length: number): Uint16Array {
  const key = `${first}/${shares.join()}`
  let sequence = begun.get(key)
  if (sequence && sequence.length >= length) return sequence
  if (begun.size >= MOST_RECENT) begun.clear()
  begun.set(key, (sequence = quotaSequence(shares, first, Math.max(length, 2 * (sequence?.length ?? 0)))))
  return sequence
}

/** How far each location is behind what the groups so far should have given it. */
class RunningTotals {
  private readonly behind: number[]

  constructor(locations: number) {
    this.behind = new Array<number>(locations).fill(0)
  }

  /**
   * Where a group's first user goes; undefined when nobody is to be placed. @throws RangeError when there are users and
   * no share anywhere
   */
  firstFor({ users, shares }: Pick<GroupToPlace, 'users' | 'shares'>, group: number): number | undefined {
    const total = shares.reduce((sum, s) => sum + s, 0)
    if (users > 0 && total === 0) throw new RangeError(`group ${group + 1} has ${users} users and no share anywhere`)
    let first = -1
    for (let i = 0; i < this.behind.length; i++) {
      if (!shares[i]) continue
      // Most behind once this group's own next user is due; ties go to the larger share, then by order.
      const due = this.behind[i]! + shares[i]! / total
      if (first < 0 || due > this.behind[first]! + shares[first]! / total + 1e-9) first = i
    }
    return first < 0 ? undefined : first
  }

  add({ users, shares }: Pick<GroupToPlace, 'users' | 'shares'>, counts: readonly number[]): void {
    const total = shares.reduce((sum, s) => sum + s, 0)
    for (let i = 0; i < this.behind.length; i++)
      this.behind[i]! += (total > 0 ? (users * shares[i]!) / total : 0) - counts[i]!
  }
}

/** A location's generators in two rooms: those there all through, and those only for the peak. */
const THROUGH = 0
const PEAK = 1

function layersOf({ generators, peak }: LocationToFill): [Room, Room] {
  const of = (layer: number) =>
    generators.flatMap((capacity, place) => ((peak?.[place] ? PEAK : THROUGH) === layer ? [{ capacity, place }] : []))
  return [new Room(of(THROUGH)), new Room(of(PEAK))]
}

/** Generators that share the same users, and what they hold already, over all groups. */
class Room {
  readonly capacity: number[]
  readonly held: number[]
  /** Of each, among all of its location. */
  readonly places: number[]
  private total = 0

  constructor(generators: readonly { capacity: number, place: number }[]) {
    const sum = generators.reduce((all, g) => all + g.capacity, 0)
    this.capacity = generators.map(g => g.capacity / sum)
    this.places = generators.map(g => g.place)
    this.held = generators.map(() => 0)
  }

  deficit(generator: number): number {
    return (this.total + 1) * this.capacity[generator]! - this.held[generator]!
  }

  take(generator: number): void {
    this.held[generator]!++
    this.total++
  }

  seatsFor(networks: readonly number[], clients?: readonly number[]): Seats {
    return new Seats(this, networks, clients)
  }
}

/**
 * The (generator, network) pairs of one group at one location. The next user goes to the pair with the largest summed
 * deficit: the generator's over all groups, the generator's within the group, the network's within the group, and the
 * pair's own. Dealing the two by the same sequence apart would tie machine to network.
 */
class Seats {
  private readonly mix: number[]
  private readonly byGenerator: number[]
  private readonly byNetwork: number[]
  private readonly byPair: number[]
  private readonly clients: Clients | undefined
  private dealt = 0

  constructor(
    private readonly room: Room,
    networks: readonly number[],
    clients: readonly number[] = [],
  ) {
    const sum = networks.reduce((a, b) => a + b, 0)
    this.mix = networks.map(n => n / sum)
    this.byGenerator = room.capacity.map(() => 0)
    this.byNetwork = networks.map(() => 0)
    this.byPair = new Array<number>(room.capacity.length * networks.length).fill(0)
    if (clients.length > 1) this.clients = new Clients(clients, room.capacity.length, networks.length)
  }

  next(): { generator: number, network: number, client: number } {
    const { capacity } = this.room
    if (capacity.length === 0) throw new RangeError('a location with users has no generator')
    const n = this.dealt + 1
    let generator = 0
    let network = 0
    let largest = Number.NEGATIVE_INFINITY
    for (let g = 0; g < capacity.length; g++) {
      const ofGenerator = this.room.deficit(g) + n * capacity[g]! - this.byGenerator[g]!
      for (let k = 0; k < this.mix.length; k++) {
        const share = capacity[g]! * this.mix[k]!
        const deficit =
          ofGenerator + n * this.mix[k]! - this.byNetwork[k]! + n * share - this.byPair[g * this.mix.length + k]!
        if (this.mix[k]! > 0 && deficit > largest + 1e-9) {
          largest = deficit
          generator = g
          network = k
        }
      }
    }
    this.dealt = n
    this.byGenerator[generator]!++
    this.byNetwork[network]!++
    this.byPair[generator * this.mix.length + network]!++
    this.room.take(generator)
    return { generator: this.room.places[generator]!, network, client: this.clients?.next(generator, network) ?? 0 }
  }
}

/**
 * The clients of one group at one location, chosen when generator and network are: so they move nobody. The next user
 * has the client with the largest summed deficit: the client's own, on the generator, on the network, and on both.
 */
class Clients {
  private readonly mix: number[]
  private readonly whole: Deficits
  private readonly onGenerator: Deficits[]
  private readonly onNetwork: Deficits[]
  private readonly onBoth: Deficits[]

  constructor(clients: readonly number[], generators: number, private readonly networks: number) {
    const sum = clients.reduce((a, b) => a + b, 0)
    this.mix = clients.map(n => n / sum)
    const deficits = (n: number) => Array.from({ length: n }, () => new Deficits(this.mix))
    this.whole = new Deficits(this.mix)
    this.onGenerator = deficits(generators)
    this.onNetwork = deficits(networks)
    this.onBoth = deficits(generators * networks)
  }

  next(generator: number, network: number): number {
    const parts = [
      this.whole,
      this.onGenerator[generator]!,
      this.onNetwork[network]!,
      this.onBoth[generator * this.networks + network]!,
    ]
    let client = 0
    let largest = Number.NEGATIVE_INFINITY
    for (let c = 0; c < this.mix.length; c++) {
      const deficit = parts.reduce((all, part) => all + part.of(c), 0)
      if (this.mix[c]! > 0 && deficit > largest + 1e-9) {
        largest = deficit
        client = c
      }
    }
    for (const part of parts) part.give(client)
    return client
  }
}

/** How far each part of a mix is behind what it should have, once the next is due. */
class Deficits {
  private readonly given: number[]
  private dealt = 0

  constructor(private readonly mix: readonly number[]) {
    this.given = mix.map(() => 0)
  }

  of(part: number): number {
    return (this.dealt + 1) * this.mix[part]! - this.given[part]!
  }

  give(part: number): void {
    this.given[part]!++
    this.dealt++
  }
}
