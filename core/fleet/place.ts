/**
 * A location of a plan, or a layer of its users, as machines are counted out for it: the ways to take a machine there,
 * what one carries, and how many it takes.
 */
import { ownOf } from '../values/own'
import { USUAL_HEADROOM, type Capacity, type Use } from '../capacity/capacity'
import { meanRoundThinkMs, type Journey } from '../journey/journey'
import { extrasOf, type Attached, type MachineType, type RegionOffer } from '../offers/machine-type'
import type { Location, Plan } from '../plan/document'
import { mixOf } from '../plan/shares'
import { CapacityBook, sumOfUses, USABLE, worstBasis, type Basis, type Known } from './capacity-book'
import { searchCheapest, type Option, type SizingWishes } from './cheapest'
import { costOf, priceOf, type Price } from '../offers/cost'
import { peakOfMoments, type UsersAtMoment } from './demand'

/**
 * Largest share of a location that interruptible machines of one type may carry: they are taken back in groups. Common
 * practice, no source.
 */
const USUAL_INTERRUPTIBLE_SHARE = 0.4

export interface SizingAround {
  journeys: readonly Journey[]
  offers: Readonly<Record<string, RegionOffer[] | undefined>>
  capacities: readonly Capacity[]
  /** Ids of capacities whose fingerprint no longer fits. */
  stale: readonly string[]
  /** Time from a machine's first billed second to its last, s. */
  billedS: number
}

/** One way to take a machine, with what it would do here. */
export interface Candidate extends Option {
  type: MachineType
  price: Price
  interruptible: boolean
  /** Of each signal's limit, headroom taken off, that the whole load would take of one machine. */
  loads: Use
  basis: Basis
  basedOn: string[]
}

type Bears = Pick<Candidate, 'loads' | 'carries' | 'basis' | 'basedOn'>

/** Machines by candidate, and what they cost for their time. `gap`: at most this share above the cheapest. */
export interface Taking {
  candidates: readonly Candidate[]
  counts: readonly number[]
  cost: number
  gap: number
}

/** Machines of a region that are somebody's; of some it is not known which they are. */
export interface Taken {
  machines: number
  byType: Readonly<Record<string, number>>
}

export const NOBODY: Taken = { machines: 0, byType: {} }

export function takenTogether(all: readonly Taken[]): Taken {
  const byType: Record<string, number> = {}
  for (const taken of all)
    for (const [type, n] of Object.entries(taken.byType)) byType[type] = (ownOf(byType, type) ?? 0) + n
  return { machines: all.reduce((sum, t) => sum + t.machines, 0), byType }
}

export function takenBy(candidates: readonly Pick<Candidate, 'type'>[], counts: readonly number[]): Taken {
  return takenTogether(candidates.map(({ type }, i) => ({ machines: counts[i]!, byType: { [type.name]: counts[i]! } })))
}

/** What is known of a type for every group, by type and headroom: the same for every layer of a location. */
export type KnownUses = Map<string, { known: (Known & { part: number })[][], useOfGroup: Use[] }>

export class LocationOptions {
  readonly users: number
  readonly attached: Attached | undefined
  /** Machines that can still be ordered here. */
  readonly free: number
  /** Machines that wait here for a run, and nobody else has, by type. */
  readonly ready: Readonly<Record<string, number>>
  private readonly borne = new Map<string, Bears>()

  /**
   * @param moments the users to carry
   * @param billedS of each of its machines
   * @param others machines of the region that others have
   */
  constructor(
    readonly plan: Plan,
    readonly location: Location,
    readonly offer: RegionOffer,
    readonly moments: readonly UsersAtMoment[],
    readonly around: SizingAround,
    readonly others: Taken,
    readonly billedS = around.billedS,
    private readonly uses: KnownUses = new Map(),
  ) {
    this.users = peakOfMoments(moments)
    this.attached = attachedOf(location, offer)
    this.ready = readyFor(offer, others)
    this.free = freeFor(offer, others)
  }

  get spares(): number {
    return this.plan.sizing?.spares ?? 0
  }

  get headroom(): number {
    return this.plan.sizing?.headroom ?? USUAL_HEADROOM
  }

  get wishes(): SizingWishes {
    const { free, ready } = this
    const waiting = Object.values(ready).reduce((sum, n) => sum + n, 0)
    return {
      mostMachines: free + waiting,
      spares: this.spares,
      interruptibleShare: this.plan.sizing?.interruptibleShare ?? USUAL_INTERRUPTIBLE_SHARE,
      ...(waiting > 0 ? { ready: { byKind: ready, mostBesides: free } } : {}),
    }
  }

  /** The same place with some of its users only. */
  layer(moments: readonly UsersAtMoment[], billedS: number, others: Taken): LocationOptions {
    return new LocationOptions(this.plan, this.location, this.offer, moments, this.around, others, billedS, this.uses)
  }

  candidates(headroom = this.headroom): Candidate[] {
    return this.offer.types.flatMap(type => [
      this.candidate(type, false, headroom),
      ...(this.location.interruptible && type.interruptiblePerHour !== undefined
        ? [this.candidate(type, true, headroom)]
        : []),
    ])
  }

  /** The ways to take a machine that another layer has, for this one's users. */
  sameKinds(candidates: readonly Candidate[]): Candidate[] {
    return candidates.map(c => this.candidate(c.type, c.interruptible, this.headroom))
  }

  /** The type that is pinned; undefined: it is not offered. */
  pinned(): Candidate | undefined {
    const type = this.offer.types.find(t => t.name === this.location.machineType)
    return type && this.candidate(type, this.location.interruptible === true, this.headroom)
  }

  /** Machines of one kind alone, spares included. */
  least({ carries }: Candidate): number {
    return Math.ceil(1 / carries - 1e-9) + this.spares
  }

  /** As many of the pinned kind as are written, or as its users need. */
  pinnedCount(candidate: Candidate): number {
    const { machines } = this.location
    return machines === 'auto' ? this.least(candidate) : machines
  }

  /**
   * As many of the pinned type as its users need, or the cheapest. @param over what is wished otherwise than usual
   * @returns undefined when nothing fits
   */
  take(over: Partial<SizingWishes> = {}): Taking | undefined {
    if (this.location.choose === 'cheapest') {
      const candidates = this.candidates()
      const found = searchCheapest(candidates, { ...this.wishes, ...over })
      return found && { candidates, ...found, cost: costIn(candidates, found.counts) }
    }
    const candidate = this.pinned()
    if (!candidate) return undefined
    const counts = [this.least(candidate)]
    return { candidates: [candidate], counts, cost: costIn([candidate], counts), gap: 0 }
  }

  private candidate(type: MachineType, interruptible: boolean, headroom: number): Candidate {
    const { offer } = this
    const ready = ownOf(this.ready, type.name) ?? 0
    const price = priceOf(type, {
      interruptible,
      extrasPerHour: this.attached ? extrasOf(offer.otherBills ?? [], this.attached) : 0,
    })
    return {
      type,
      price,
      interruptible,
      vcpu: type.vcpu,
      cost: costOf(price, this.billedS * 1000),
      kind: type.name,
      most: offer.noStock?.includes(type.name) ? ready : this.free + ready,
      ...this.bears(type, headroom),
    }
  }

  /** What is asked of a type and what that rests on; the same whether a machine may be taken back or not. */
  private bears(type: MachineType, headroom: number): Bears {
    const key = `${type.name} ${headroom}`
    let bears = this.borne.get(key)
    if (bears) return bears
    const { known, useOfGroup } = this.known(type, headroom)
    // Each signal at the moment that is heaviest for it.
    const loads: Use = {}
    for (const signal of USABLE) {
      const perUser = useOfGroup.map(use => use[signal] ?? 0)
      if (perUser.every(use => use === 0)) continue
      let most = 0
      for (const { users } of this.moments) {
        let load = 0
        for (let g = 0; g < users.length; g++) load += users[g]! * perUser[g]!
        most = Math.max(most, load)
      }
      if (most > 0) loads[signal] = most
    }
    const here = known.filter((_, g) => this.moments.some(m => m.users[g]! > 0)).flat()
    bears = {
      loads,
      carries: 1 / Math.max(1e-12, ...Object.values(loads)),
      basis: worstBasis(here.map(k => k.basis)),
      basedOn: [...new Set(here.flatMap(k => (k.capacity ? [k.capacity.id] : [])))],
    }
    this.borne.set(key, bears)
    return bears
  }

  private known(type: MachineType, headroom: number) {
    const key = `${type.name} ${headroom}`
    const before = this.uses.get(key)
    if (before) return before
    const { plan, location, around } = this
    const book = new CapacityBook(around.capacities, new Set(around.stale), plan.assumedUsersPerVcpu, headroom)
    const known = plan.groups.map((group) => {
      const journey = around.journeys.find(j => j.id === group.journeyId)
      const thinkMs = (journey ? meanRoundThinkMs(journey) : 0) * (group.thinkScale ?? 1)
      const pacingMs = journey?.kind === 'http' ? journey.pacingMs : undefined
      return mixOf(plan, group.letter, location.code).map(({ network, bp }) => ({
        part: bp / 10_000,
        ...book.find({
          journeyId: group.journeyId,
          thinkMs,
          ...(pacingMs === undefined ? {} : { pacingMs }),
          network,
          provider: location.provider,
          type,
        }),
      }))
    })
    const found = { known, useOfGroup: known.map(parts => sumOfUses(parts.map(p => [p.use, p.part] as const))) }
    this.uses.set(key, found)
    return found
  }
}

function readyFor({ waiting = {} }: RegionOffer, { byType }: Taken): Record<string, number> {
  return Object.fromEntries(
    Object.entries(waiting).map(([type, n]) => [type, Math.max(0, n - (ownOf(byType, type) ?? 0))]),
  )
}

function freeFor({ quota, waiting = {} }: RegionOffer, { machines, byType }: Taken): number {
  let ordered = machines
  for (const [type, n] of Object.entries(waiting)) ordered -= Math.min(n, ownOf(byType, type) ?? 0)
  return Math.max(0, quota.most - quota.used - ordered)
}

export function costIn(candidates: readonly Pick<Candidate, 'cost'>[], counts: readonly number[]): number {
  return candidates.reduce((sum, c, i) => sum + c.cost * counts[i]!, 0)
}

export function machinesIn(counts: readonly number[]): number {
  return counts.reduce((sum, n) => sum + n, 0)
}

/** What is attached: as written, the provider's own defaults for the rest. */
export function attachedOf({ attached = {} }: Location, { attachments }: RegionOffer): Attached | undefined {
  if (!attachments) return undefined
  const usual = Object.entries(attachments.properties).flatMap(([name, { default: value }]) =>
    value === undefined ? [] : [[name, value] as const],
  )
  return { ...Object.fromEntries(usual), ...attached }
}

/** “2 × brisk-2, 1 × brisk-1 interruptible” */
export function sayMachines(
  candidates: readonly Pick<Candidate, 'type' | 'interruptible'>[],
  counts: readonly number[],
): string {
  return candidates
    .flatMap((c, i) =>
      counts[i]! > 0 ? [`${counts[i]} × ${c.type.name}${c.interruptible ? ' interruptible' : ''}`] : [],
    )
    .join(', ')
}
