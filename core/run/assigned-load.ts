/**
 * What generators bear of a run, cut into pieces of one user each: what others take over when one is lost. A pure
 * function of the document, as slices are.
 */
import { BY_USERS } from '../load/drive'
import { peakOf } from '../load/profile'
import { staysOf } from '../load/stays'
import type { RunDocument } from './document'
import { planInUsers } from '../plan/expected'
import { dealPlan, sliceFor, type Post, type Slice } from './slice'

/**
 * One user's worth of load, of the post it was dealt to first. A user who comes and go by the plan, by its place among
 * those of the post's slice; or, where passes are driven by arrivals, every `of`-th of those the post starts, from
 * number `slot` on.
 */
export type Piece = Post & { group: number } & ({ user: number } | { slot: number, of: number })

/** What one generator bears. */
export interface AssignedLoad {
  pieces: Piece[]
  /** Users it bears that nobody takes over: those of command journeys. */
  fixed: number
  /** By group that holds a rate: users it is asked for at the peak. They follow the rate, however few are left. */
  rated: { group: number, users: number }[]
}

/** Pieces of one post, as generators are told of them. */
export interface TakenPart extends Post {
  users: number[]
  passes: { group: number, of: number, slots: number[] }[]
}

/** @param generators capacities per location, any unit @returns what each is assigned: `[location][generator]` */
export function assignedLoadsOf(document: RunDocument, generators: readonly (readonly number[])[]): AssignedLoad[][] {
  const { plan, journeys } = document
  const inUsers = planInUsers(plan, journeys)
  const assignedLoads = generators.map(there => there.map((): AssignedLoad => ({ pieces: [], fixed: 0, rated: [] })))
  const places = generators.map(there => there.map(() => 0))
  dealPlan(document, generators).forEach(({ locationOf, generatorOf }, group) => {
    const { journeyId, profile, drive = BY_USERS } = plan.groups[group]!
    const isCommand = journeys.find(j => j.id === journeyId)?.kind === 'command'
    if (drive.kind === 'users') {
      const stays = staysOf(profile)
      locationOf.forEach((location, u) => {
        if (!stays[u]?.length) return
        const generator = generatorOf[u]!
        const user = places[location]![generator]!++
        const assigned = assignedLoads[location]![generator]!
        if (isCommand) assigned.fixed++
        else assigned.pieces.push({ location, generator, group, user })
      })
      return
    }
    const dealt = generators.map(there => there.map(() => 0))
    locationOf.forEach((location, u) => {
      dealt[location]![generatorOf[u]!]!++
    })
    const perDealt = peakOf(inUsers.groups[group]!.profile) / locationOf.length
    assignedLoads.forEach((there, location) =>
      there.forEach((assigned, generator) => {
        const users = perDealt * dealt[location]![generator]!
        if (dealt[location]![generator] === 0) return
        if (isCommand) assigned.fixed += users
        else if (drive.kind === 'requests') assigned.rated.push({ group, users })
        else {
          const of = Math.max(1, Math.ceil(users))
          for (let slot = 0; slot < of; slot++) assigned.pieces.push({ location, generator, group, slot, of })
        }
      }),
    )
  })
  return assignedLoads
}

/**
 * In an order in which any first part has as much of every group as of all: what has no place at the end is shed of
 * each alike.
 */
export function evenly(pieces: readonly Piece[]): Piece[] {
  const counts = new Map<number, number>()
  for (const { group } of pieces) counts.set(group, (counts.get(group) ?? 0) + 1)
  const seen = new Map<number, number>()
  return pieces
    .map((piece) => {
      const n = seen.get(piece.group) ?? 0
      seen.set(piece.group, n + 1)
      return { piece, at: (n + 0.5) / (counts.get(piece.group) ?? 1) }
    })
    .sort((a, b) => a.at - b.at)
    .map(({ piece }) => piece)
}

/** Pieces by the posts they are of. */
export function partsOf(pieces: readonly Piece[]): TakenPart[] {
  const parts = new Map<string, TakenPart>()
  for (const piece of pieces) {
    const { location, generator, group } = piece
    const key = `${location}/${generator}`
    let part = parts.get(key)
    if (!part) parts.set(key, (part = { location, generator, users: [], passes: [] }))
    if ('user' in piece) part.users.push(piece.user)
    else {
      const passes = part.passes.find(p => p.group === group)
      if (passes) passes.slots.push(piece.slot)
      else part.passes.push({ group, of: piece.of, slots: [piece.slot] })
    }
  }
  return [...parts.values()]
}

/** What these parts are, from the slices of their posts. Places that are not there are left out. */
export function sliceOfParts(
  document: RunDocument,
  generators: readonly (readonly number[])[],
  parts: readonly TakenPart[],
): Slice {
  const taken: Slice = { users: [], arrivals: [] }
  for (const { users, passes, ...post } of parts) {
    const slice = sliceFor(document, generators, post)
    const theirs = slice.users.filter(u => u.stays.length > 0)
    taken.users.push(...users.flatMap(i => theirs[i] ?? []))
    for (const arrivals of slice.arrivals) {
      const wanted = passes.find(p => p.group === arrivals.group)
      if (!wanted) continue
      const slots = new Set(wanted.slots)
      const mine = (_: unknown, i: number) => slots.has(i % wanted.of)
      taken.arrivals.push({
        ...arrivals,
        atMs: arrivals.atMs.filter(mine),
        numbers: arrivals.numbers.filter(mine),
        kindOf: arrivals.kindOf.filter(mine),
      })
    }
  }
  return taken
}
