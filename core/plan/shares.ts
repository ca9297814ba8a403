/** Shares of a group as typed (numbers and "rest") turned into whole basis points per location. */
import { PLAIN } from '../client/client'
import { DIRECT } from '../network/profile'
import type { Group, Plan, Share } from './document'

/** 100 % in basis points. */
export const WHOLE_BP = 10_000

/** The resolved shares of one group. */
export interface ResolvedShares {
  /** Basis points per location, in the plan's order. */
  bp: number[]
  /** Their sum; a plan can only run at {@link WHOLE_BP}. */
  totalBp: number
}

/** Several "rest" cells divide what is left evenly; the odd basis points go to the first ones. */
export function resolveShares(plan: Plan, letter: string): ResolvedShares {
  const cells: Share[] = plan.locations.map(l => plan.placement[letter]?.[l.code] ?? 0)
  const typed = cells.reduce<number>((sum, c) => sum + (c === 'rest' ? 0 : c), 0)
  const rests = cells.filter(c => c === 'rest').length
  const left = Math.max(0, WHOLE_BP - typed)
  let given = 0
  const bp = cells.map((c) => {
    if (c !== 'rest') return c
    const share = Math.floor(left / rests) + (given < left % rests ? 1 : 0)
    given++
    return share
  })
  return { bp, totalBp: bp.reduce((sum, x) => sum + x, 0) }
}

/** A network of a cell and its part of the cell's users, basis points. */
export interface MixPart {
  network: string
  bp: number
}

/**
 * Networks of a cell in the order they are written; users left over have none added. Never empty; what is over 100
 * % is taken as it stands.
 */
export function mixOf(plan: Pick<Plan, 'networks'>, letter: string, code: string): MixPart[] {
  return wholeMix(plan.networks?.[letter]?.[code], DIRECT).map(([network, bp]) => ({ network, bp }))
}

/** A client of a group and its part of the group's users, basis points. */
export interface ClientPart {
  client: string
  bp: number
}

/** Clients of a group, as {@link mixOf} has networks. */
export function clientsOf({ clients }: Pick<Group, 'clients'>): ClientPart[] {
  return wholeMix(clients, PLAIN).map(([client, bp]) => ({ client, bp }))
}

/** Parts of a mix, and what is left as a part of its own. */
function wholeMix(mix: Readonly<Record<string, number>> = {}, left: string): [id: string, bp: number][] {
  const parts = Object.entries(mix).filter(([, bp]) => bp > 0)
  const bp = WHOLE_BP - parts.reduce((sum, [, part]) => sum + part, 0)
  return bp > 0 ? [...parts, [left, bp]] : parts
}

/** Ids of the clients the groups of a plan have. */
export function clientsUsed(plan: Pick<Plan, 'groups'>): string[] {
  const ids = plan.groups.flatMap(g => clientsOf(g).map(p => p.client))
  return [...new Set(ids)].filter(id => id !== PLAIN)
}

/** Ids of the network profiles a plan uses where somebody is placed. */
export function networksUsed(plan: Plan): string[] {
  const used = new Set<string>()
  for (const { letter } of plan.groups) {
    const { bp } = resolveShares(plan, letter)
    plan.locations.forEach(({ code }, l) => {
      if (bp[l]) for (const { network } of mixOf(plan, letter, code)) if (network !== DIRECT) used.add(network)
    })
  }
  return [...used]
}

/** A group's share of a location, basis points; 0 where it has none, or the plan has no such location. */
export function shareAt(plan: Plan, letter: string, code: string): number {
  const index = plan.locations.findIndex(l => l.code === code)
  return resolveShares(plan, letter).bp[index] ?? 0
}
