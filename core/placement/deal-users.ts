/**
 * Gives every user of a plan its place, before the run: a location, and there a generator and a network. A pure function, so that
 * any generator computes its own users from the plan and its index.
 */
import { quotaSequence, type BasisPoints } from './quota-method'

/** A group to place: its number of users at peak, and for each location a weight and a network mix. */
export interface GroupToPlace {
  users: number
  /** Weight per location, basis points; same order and length as the locations. */
  shares: readonly BasisPoints[]
  /** Per location, the weights of its networks in basis points; one entry when there is no mix. */
  networks: readonly (readonly BasisPoints[])[]
}

/** Capacity of each generator at a location, any unit; only their proportions count. */
export interface LocationToFill { generators: readonly number[] }

/** Where users go: entry u of `locationOf` is user u+1's location index, and so on. */
export interface DealtGroup { locationOf: Uint16Array, generatorOf: Uint16Array, networkOf: Uint16Array }

/**
 * @returns one entry per group, in order
 * @throws RangeError when a group has users but no location with a share above 0, or a location with users has no generator
 */
export function dealUsers(groups: readonly GroupToPlace[], locations: readonly LocationToFill[]): DealtGroup[] {
  const dealtLocations = dealLocations(groups, locations.length)
  const rooms = locations.map(l => new Room(l.generators))
  return groups.map((group, g) => {
    const locationOf = dealtLocations[g]!
    const generatorOf = new Uint16Array(group.users)
    const networkOf = new Uint16Array(group.users)
    const seats = locations.map((_, l) => rooms[l]!.seatsFor(group.networks[l] ?? [1]))
    for (let u = 0; u < group.users; u++) {
      const seat = seats[locationOf[u]!]!.next()
      generatorOf[u] = seat.generator
      networkOf[u] = seat.network
    }
    return { locationOf, generatorOf, networkOf }
  })
}

/**
 * Only the first half: the location of every user of every group. Each group's sequence starts at the location whose running
 * total over the groups before is most behind, so that many small groups do not all fall to the first column.
 */
export function dealLocations(groups: readonly Pick<GroupToPlace, 'users' | 'shares'>[], locations: number): Uint16Array[] {
  const behind = new Array<number>(locations).fill(0)
  return groups.map((group, g) => {
    const total = group.shares.reduce((sum, s) => sum + s, 0)
    if (group.users > 0 && total === 0) throw new RangeError(`group ${g + 1} has ${group.users} users and no share anywhere`)
    let first = -1
    for (let i = 0; i < locations; i++) {
      if (!group.shares[i]) continue
      // Most behind once this group's own next user is due; ties go to the larger share, then by order.
      const due = behind[i]! + group.shares[i]! / total
      if (first < 0 || due > behind[first]! + group.shares[first]! / total + 1e-9) first = i
    }
    const sequence = first < 0 ? new Uint16Array(0) : quotaSequence(group.shares, first)
    const locationOf = new Uint16Array(group.users)
    for (let u = 0; u < group.users; u++) {
      const l = sequence[u % sequence.length]!
      locationOf[u] = l
      behind[l]!--
    }
    for (let i = 0; i < locations; i++) behind[i]! += total > 0 ? group.users * group.shares[i]! / total : 0
    return locationOf
  })
}

/** A location's generators and what they hold already, over all groups. */
class Room {
  readonly capacity: number[]
  readonly held: number[]
  private total = 0

  constructor(generators: readonly number[]) {
    const sum = generators.reduce((a, b) => a + b, 0)
    this.capacity = generators.map(c => c / sum)
    this.held = generators.map(() => 0)
  }

  deficit(generator: number): number {
    return (this.total + 1) * this.capacity[generator]! - this.held[generator]!
  }

  take(generator: number): void {
    this.held[generator]!++
    this.total++
  }

  seatsFor(networks: readonly number[]): Seats {
    return new Seats(this, networks)
  }
}

/**
 * The (generator, network) pairs of one group at one location. The next user goes to the pair with the largest summed deficit: the
 * generator's over all groups, the generator's within the group, the network's within the group, and the pair's own. Dealing the two by
 * the same sequence apart would tie machine to network.
 */
class Seats {
  private readonly mix: number[]
  private readonly byGenerator: number[]
  private readonly byNetwork: number[]
  private readonly byPair: number[]
  private dealt = 0

  constructor(private readonly room: Room, networks: readonly number[]) {
    const sum = networks.reduce((a, b) => a + b, 0)
    this.mix = networks.map(n => n / sum)
    this.byGenerator = room.capacity.map(() => 0)
    this.byNetwork = networks.map(() => 0)
    this.byPair = new Array<number>(room.capacity.length * networks.length).fill(0)
  }

  next(): { generator: number, network: number } {
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
        const deficit = ofGenerator + n * this.mix[k]! - this.byNetwork[k]! + n * share - this.byPair[g * this.mix.length + k]!
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
    return { generator, network }
  }
}
