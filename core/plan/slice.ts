/** A generator's part of a run, computed from the document alone: the same on the controller, the generator and in a test. */
import { dealLocations, dealUsers, type DealtGroup } from '../placement/deal-users'
import { peakOf, type Stay } from '../load/profile'
import { staysOf } from '../load/stays'
import type { RunDocument } from './document'
import { seriesOf } from './series'
import { resolveShares } from './shares'

/** One user a generator plays. */
export interface SlicedUser {
  /** Index of the group in the plan. */
  group: number
  /** Number of the user within the group, from 1. */
  number: number
  /** Series number of the first measure of the user's journey; the others follow. */
  firstSeries: number
  stays: Stay[]
}

/** Where a generator stands: location index in the plan, and its place among the generators there. */
export interface Post { location: number, generator: number }

/** Deals every user of the plan. @param generators capacities per location, any unit */
export function dealPlan(document: RunDocument, generators: readonly (readonly number[])[]): DealtGroup[] {
  const { plan } = document
  return dealUsers(
    plan.groups.map((group) => {
      const { bp } = resolveShares(plan, group.letter)
      return { users: peakOf(group.profile), shares: bp, networks: bp.map(() => [1]) }
    }),
    generators.map(g => ({ generators: g })),
  )
}

/** Users per location at peak of each group: `[group][location]`. */
export function usersPerCell(document: Pick<RunDocument, 'plan'>): number[][] {
  const { plan } = document
  const groups = plan.groups.map(g => ({ users: peakOf(g.profile), shares: resolveShares(plan, g.letter).bp }))
  const placeable = groups.map(g => ({ ...g, users: g.shares.some(s => s > 0) ? g.users : 0 }))
  return dealLocations(placeable, plan.locations.length).map((locationOf) => {
    const counts = plan.locations.map(() => 0)
    for (const l of locationOf) counts[l]!++
    return counts
  })
}

/** The users of one generator. */
export function sliceFor(document: RunDocument, generators: readonly (readonly number[])[], post: Post): SlicedUser[] {
  const series = seriesOf(document)
  const users: SlicedUser[] = []
  dealPlan(document, generators).forEach((dealt, g) => {
    const firstSeries = series.findIndex(s => s.group === g && s.location === post.location)
    const stays = staysOf(document.plan.groups[g]!.profile)
    for (let u = 0; u < stays.length; u++) {
      if (dealt.locationOf[u] !== post.location || dealt.generatorOf[u] !== post.generator) continue
      users.push({ group: g, number: u + 1, firstSeries, stays: stays[u]! })
    }
  })
  return users
}

/** Whole length of a run's load, ms: the longest of its groups' profiles. */
export function runLengthMs(document: Pick<RunDocument, 'plan'>): number {
  return document.plan.groups.reduce((most, g) => Math.max(most, g.profile.segments.reduce((sum, s) => sum + s.overMs, g.profile.startDelayMs)), 0)
}
