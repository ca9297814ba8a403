/**
 * A generator's part of a run, computed from the document alone: the same on the controller, the generator and in a
 * test.
 */
import { arrivalMoments } from '../load/arrivals'
import { BY_USERS } from '../load/drive'
import { peakOf, type Stay } from '../load/profile'
import { staysOf } from '../load/stays'
import { countLocations, dealUsers, type DealtGroup } from '../placement/deal-users'
import { orderOfPlace, type PeakShift } from '../fleet/order'
import type { Group } from '../plan/document'
import type { RunDocument } from './document'
import { firstSeriesOf, seriesOf } from './series'
import { clientsOf, mixOf, resolveShares } from '../plan/shares'

/** What users of a cell go by, and where they are counted. */
export interface UserKind {
  /** Id of the network profile, or `direct`. */
  network: string
  /** Id of the client, or `plain`. */
  client: string
  /** Series number of the first measure of the user's journey; the others follow. */
  firstSeries: number
}

/** One user a generator plays. */
export interface SlicedUser extends UserKind {
  /** Index of the group in the plan. */
  group: number
  /** Number of the user within the group, from 1. */
  number: number
  /** Empty for users who come and go as the controller asks. */
  stays: Stay[]
}

/** Passes of one group that a generator starts: entry i of each list belongs together. */
export interface SlicedArrivals {
  group: number
  /** ms from the start of the run, rising. */
  atMs: Int32Array
  /** Number of the pass within the group, from 1. */
  numbers: Int32Array
  /** Index into `kinds`. */
  kindOf: Uint16Array
  kinds: UserKind[]
}

export interface Slice {
  users: SlicedUser[]
  arrivals: SlicedArrivals[]
}

/** Where a generator stands: location index in the plan, and its place among the generators there. */
export interface Post {
  location: number
  generator: number
}

/** How many users (or passes, under arrivals) a group deals out. */
export function dealtIn(group: Group, seed: number): number {
  const drive = group.drive ?? BY_USERS
  if (drive.kind === 'arrivals') return momentsOf(group, seed).length
  return drive.kind === 'requests' ? drive.mostUsers : peakOf(group.profile)
}

/** Moments at which a group's passes are due, ms. */
export function momentsOf(group: Group, seed: number): Int32Array {
  const drive = group.drive ?? BY_USERS
  if (drive.kind !== 'arrivals') return new Int32Array(0)
  return arrivalMoments(group.profile, drive.spacing, seed ^ Math.imul(group.letter.charCodeAt(0), 0x9e3779b1))
}

/** What a run's machines are, where it matters which are there only for the peak. */
type Dealt = Pick<RunDocument, 'plan'> & Partial<Pick<RunDocument, 'fleet'>>

/** Deals every user of the plan. @param generators capacities per location, any unit */
export function dealPlan({ plan, fleet = [] }: Dealt, generators: readonly (readonly number[])[]): DealtGroup[] {
  const shifts = plan.locations.map(l => fleet.find(o => o.location === l.code && o.shift)?.shift)
  return dealUsers(
    plan.groups.map((group) => {
      const { bp } = resolveShares(plan, group.letter)
      return {
        users: dealtIn(group, plan.seed),
        shares: bp,
        networks: plan.locations.map(l => mixOf(plan, group.letter, l.code).map(p => p.bp)),
        clients: clientsOf(group).map(p => p.bp),
        // Passes are not there at once, so they weigh nothing against users who stay.
        apart: group.drive?.kind === 'arrivals',
        above: shifts.map(shift => shift?.above[group.letter]),
      }
    }),
    generators.map((g, l) =>
      shifts[l]
        ? {
            generators: g,
            peak: g.map((_, place) => orderOfPlace(fleet, plan.locations[l]!.code, place)?.shift !== undefined),
          }
        : { generators: g },
    ),
  )
}

/**
 * Users per location when every group is at its level's peak: `[group][location]`. For drives that are not users, give
 * the plan in users.
 */
export function usersPerCell({ plan }: Pick<RunDocument, 'plan'>): number[][] {
  const groups = plan.groups.map(g => ({
    users: Math.ceil(peakOf(g.profile)),
    shares: resolveShares(plan, g.letter).bp,
  }))
  return countLocations(
    groups.map(g => ({ ...g, users: g.shares.some(s => s > 0) ? g.users : 0 })),
    plan.locations.length,
  )
}

/** What one generator plays. */
export function sliceFor(document: RunDocument, generators: readonly (readonly number[])[], post: Post): Slice {
  const { plan } = document
  const series = seriesOf(document)
  const slice: Slice = { users: [], arrivals: [] }
  dealPlan(document, generators).forEach((dealt, g) => {
    const group = plan.groups[g]!
    const mine = (u: number) => dealt.locationOf[u] === post.location && dealt.generatorOf[u] === post.generator
    const clients = clientsOf(group)
    const kinds = mixOf(plan, group.letter, plan.locations[post.location]!.code).flatMap(({ network }) =>
      clients.map(({ client }): UserKind => ({
        network,
        client,
        firstSeries: firstSeriesOf(series, g, post.location, network, client),
      })),
    )
    const kindOf = (u: number) => dealt.networkOf[u]! * clients.length + dealt.clientOf[u]!
    if (group.drive?.kind === 'arrivals') {
      const moments = momentsOf(group, plan.seed)
      const chosen = [...moments.keys()].filter(mine)
      if (chosen.length > 0) {
        slice.arrivals.push({
          group: g,
          atMs: Int32Array.from(chosen, u => moments[u]!),
          numbers: Int32Array.from(chosen, u => u + 1),
          kindOf: Uint16Array.from(chosen, kindOf),
          kinds,
        })
      }
      return
    }
    const stays = group.drive?.kind === 'requests' ? undefined : staysOf(group.profile)
    for (let u = 0; u < dealt.locationOf.length; u++) {
      if (!mine(u)) continue
      slice.users.push({ group: g, number: u + 1, ...kinds[kindOf(u)]!, stays: stays?.[u] ?? [] })
    }
  })
  return slice
}

/** Every n-th of a slice: what one of several workers carries. */
export function partOfSlice({ users, arrivals }: Slice, index: number, of: number): Slice {
  const every = (_: unknown, i: number) => i % of === index
  return {
    users: users.filter(every),
    arrivals: arrivals
      .map(a => ({
        ...a,
        atMs: a.atMs.filter(every),
        numbers: a.numbers.filter(every),
        kindOf: a.kindOf.filter(every),
      }))
      .filter(a => a.atMs.length > 0),
  }
}

/** The part of the run that a generator is there for; undefined: all of it. */
export function shiftAt(
  { plan, fleet }: Pick<RunDocument, 'plan' | 'fleet'>,
  { location, generator }: Post,
): PeakShift | undefined {
  return orderOfPlace(fleet, plan.locations[location]!.code, generator)?.shift
}
