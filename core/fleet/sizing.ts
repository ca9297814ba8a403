/**
 * How many machines of which type a plan takes at each location: pinned by hand or the cheapest, inside quota and stock, with spares; what binds, what other
 * choices would cost, and, when nothing fits, the smallest single change that would help.
 */
import { USUAL_HEADROOM, type Capacity, type Use } from '../capacity/capacity'
import { SIGNAL_PHRASES, type Signal } from '../capacity/signals'
import { meanRoundThinkMs, type Journey } from '../journey/journey'
import { extrasOf, type Attached, type Location, type MachineType, type Plan, type RegionOffer, type Sizing } from '../plan/document'
import { mixOf } from '../plan/shares'
import { CapacityBook, sumOfUses, UNSURE, worstBasis, type Basis } from './capacity-book'
import { cheapest, lostWith, searchCheapest, type Option, type Wishes } from './cheapest'
import { costOf, priceOf } from './cost'
import { demandOf, peakOfMoments, type Moment } from './demand'

/** Largest share of a location that interruptible machines of one type may carry: they are taken back in groups. Common practice, no source. */
export const USUAL_INTERRUPTIBLE_SHARE = 0.4

/** A hint beside what is pinned must not cost a frame. */
const HINT_BRANCHES = 300

export interface SizingAround {
  journeys: readonly Journey[]
  offers: Readonly<Record<string, RegionOffer[] | undefined>>
  capacities: readonly Capacity[]
  /** Ids of capacities whose fingerprint no longer fits. */
  stale: readonly string[]
  /** Time from a machine's first billed second to its last, s. */
  billedS: number
}

export interface TakenMachines {
  type: MachineType
  interruptible: boolean
  count: number
  /** Users of the location, in their mix, that one carries. */
  carries: number
  /** Of all of them for the whole run, and per hour. */
  cost: number
  perHour: number
}

/** A signal's part of what its machines may bear: 1 is the limit less the headroom. */
export interface SignalLoad { signal: Signal | 'tried' | 'assumed', share: number, type: string }

export type RemedyKind = 'quota' | 'spares' | 'headroom' | 'move' | 'interruptible'

/** A single change that would make it fit; `change`: where the plan's own sizing can be changed so. */
export interface SizingRemedy { kind: RemedyKind, sentence: string, cost?: number, change?: Sizing }

/** Another choice beside the one made. `cost`: difference for the whole run. */
export interface SizingChoice { kind: 'safer' | 'cheaper', sentence: string, cost: number }

export interface LocationSizing {
  code: string
  /** At its heaviest moment. */
  users: number
  machines: TakenMachines[]
  /** Machines the users would need of the pinned type; of the cheapest: what is taken. */
  needed: number
  /** Users its machines carry, in their mix. */
  carries: number
  /** The most loaded first. */
  loads: SignalLoad[]
  /** Load of the fullest signal once the spares are lost. */
  withSparesLost: number
  basis: Basis
  /** Ids of the capacities it rests on. */
  basedOn: string[]
  cost: number
  perHour: number
  /** What keeps it from being smaller, and what is left of the rest. */
  binds: string
  slack: string
  choices: SizingChoice[]
  /** It was to be the cheapest, and nothing fits. */
  unfit: boolean
  remedies: SizingRemedy[]
}

/** @param plan with every level in users @returns those locations whose region and type are offered */
export function sizePlan(plan: Plan, around: SizingAround): LocationSizing[] {
  const demand = demandOf(plan)
  const taken = new Map<string, number>()
  return plan.locations.flatMap((location, l) => {
    const offer = around.offers[location.provider]?.find(r => r.region === location.region)
    if (!offer) return []
    const place = `${location.provider}/${location.region}`
    const sizing = new Place(plan, location, offer, demand[l]!, around, taken.get(place) ?? 0).size()
    if (!sizing) return []
    // Locations of one region share its quota: the first come first.
    taken.set(place, (taken.get(place) ?? 0) + sizing.machines.reduce((sum, m) => sum + m.count, 0))
    return [sizing]
  })
}

/** One way to take a machine, with what it would do here. */
interface Candidate extends Option { type: MachineType, price: ReturnType<typeof priceOf>, loads: Use, basis: Basis, basedOn: string[] }

class Place {
  private readonly users: number
  private readonly attached: Attached | undefined

  constructor(private readonly plan: Plan, private readonly location: Location, private readonly offer: RegionOffer, private readonly moments: readonly Moment[], private readonly around: SizingAround, private readonly takenBefore: number) {
    this.users = peakOfMoments(moments)
    this.attached = attachedOf(location, offer)
  }

  private get spares(): number { return this.plan.sizing?.spares ?? 0 }
  private get headroom(): number { return this.plan.sizing?.headroom ?? USUAL_HEADROOM }
  private get free(): number { return Math.max(0, this.offer.quota.most - this.offer.quota.used - this.takenBefore) }

  private get wishes(): Wishes {
    const waiting = Object.values(this.offer.waiting ?? {}).reduce((sum, n) => sum + n, 0)
    return { mostMachines: this.free + waiting, spares: this.spares, interruptibleShare: this.plan.sizing?.interruptibleShare ?? USUAL_INTERRUPTIBLE_SHARE }
  }

  size(): LocationSizing | undefined {
    return this.location.choose === 'cheapest' ? this.cheapest() : this.pinned()
  }

  private pinned(): LocationSizing | undefined {
    const { location } = this
    const type = this.offer.types.find(t => t.name === location.machineType)
    if (!type) return undefined
    const candidate = this.candidate(type, location.interruptible === true, this.headroom)
    const needed = this.users === 0 ? 0 : this.least(candidate)
    const count = this.users === 0 ? 0 : location.machines === 'auto' ? needed : location.machines
    const others = this.users === 0 ? [] : this.candidates()
    const cheaper = this.users === 0 ? undefined : cheapest(others, { ...this.wishes, mostBranches: HINT_BRANCHES })
    const sizing = this.answer([candidate], [count], needed)
    const saves = cheaper ? sizing.cost - others.reduce((sum, o, i) => sum + o.cost * cheaper[i]!, 0) : 0
    if (saves > 0.0005) sizing.choices.push({ kind: 'cheaper', sentence: `The cheapest here would be ${sayMachines(others, cheaper!)}.`, cost: -saves })
    return sizing
  }

  private cheapest(): LocationSizing {
    const candidates = this.candidates()
    if (this.users === 0) return this.answer(candidates, candidates.map(() => 0), 0)
    const found = searchCheapest(candidates, this.wishes)
    if (found) {
      const sizing = this.answer(candidates, found.counts, found.counts.reduce((sum, n) => sum + n, 0))
      // More ways than could be tried: how far from the cheapest it may be.
      return found.gap > 0.0005 ? { ...sizing, slack: `${sizing.slack}; at most ${(found.gap * 100).toFixed(1)} % above the cheapest there may be` } : sizing
    }
    return { ...this.answer(candidates, candidates.map(() => 0), 0), unfit: true, remedies: this.remedies(candidates), binds: this.whyNot(candidates) }
  }

  /** Machines of one kind alone, spares included. */
  private least({ carries }: Candidate): number {
    return Math.ceil(1 / carries - 1e-9) + this.spares
  }

  private candidates(headroom = this.headroom): Candidate[] {
    return this.offer.types.flatMap(type => [
      this.candidate(type, false, headroom),
      ...(this.location.interruptible && type.interruptiblePerHour !== undefined ? [this.candidate(type, true, headroom)] : []),
    ])
  }

  private candidate(type: MachineType, interruptible: boolean, headroom: number): Candidate {
    const { plan, location, offer, around } = this
    const book = new CapacityBook(around.capacities, new Set(around.stale), plan.assumedUsersPerVcpu, headroom)
    const known = plan.groups.map((group) => {
      const journey = around.journeys.find(j => j.id === group.journeyId)
      const thinkMs = (journey ? meanRoundThinkMs(journey) : 0) * (group.thinkScale ?? 1)
      const pacingMs = journey?.kind === 'http' ? journey.pacingMs : undefined
      return mixOf(plan, group.letter, location.code).map(({ network, bp }) => ({ part: bp / 10_000, ...book.find({ journeyId: group.journeyId, thinkMs, ...(pacingMs === undefined ? {} : { pacingMs }), network, provider: location.provider, type }) }))
    })
    const useOfGroup = known.map(parts => sumOfUses(parts.map(p => [p.use, p.part] as const)))
    // Each signal at the moment that is heaviest for it.
    const loads: Use = {}
    for (const { users } of this.moments) {
      const at = sumOfUses(users.map((n, g) => [useOfGroup[g]!, n] as const))
      for (const [signal, share] of Object.entries(at) as [Signal, number][]) loads[signal] = Math.max(loads[signal] ?? 0, share)
    }
    const here = known.filter((_, g) => this.moments.some(m => m.users[g]! > 0)).flat()
    const price = priceOf(type, { interruptible, extrasPerHour: this.attached ? extrasOf(offer.otherBills ?? [], this.attached) : 0 })
    return {
      type, price, interruptible, vcpu: type.vcpu, loads, carries: 1 / Math.max(1e-12, ...Object.values(loads)), cost: costOf(price, around.billedS * 1000),
      most: offer.noStock?.includes(type.name) ? offer.waiting?.[type.name] ?? 0 : this.free + (offer.waiting?.[type.name] ?? 0),
      basis: worstBasis(here.map(k => k.basis)), basedOn: [...new Set(here.flatMap(k => k.capacity ? [k.capacity.id] : []))],
    }
  }

  private answer(candidates: readonly Candidate[], counts: readonly number[], needed: number): LocationSizing {
    const { location, users } = this
    const carried = candidates.reduce((sum, c, i) => sum + c.carries * counts[i]!, 0)
    const chosen = candidates.flatMap((c, i) => counts[i]! > 0 ? [{ c, n: counts[i]! }] : [])
    const loads = chosen.flatMap(({ c }) => (Object.entries(c.loads) as [SignalLoad['signal'], number][]).map(([signal, share]): SignalLoad => ({ signal, share: share * c.carries / carried, type: c.type.name })))
    const fullest = new Map<string, SignalLoad>()
    for (const load of loads) if ((fullest.get(load.signal)?.share ?? -1) < load.share) fullest.set(load.signal, load)
    const sorted = [...fullest.values()].sort((a, b) => b.share - a.share)
    const lost = lostWith(candidates, counts, this.spares)
    const sizing: LocationSizing = {
      code: location.code, users, needed, carries: Math.floor(carried * users + 1e-6), loads: sorted, withSparesLost: carried > lost ? 1 / (carried - lost) : Number.POSITIVE_INFINITY,
      machines: chosen.map(({ c, n }) => ({ type: c.type, interruptible: c.price.interruptible, count: n, carries: c.carries * users, cost: n * c.cost, perHour: n * (c.price.perHour + c.price.extrasPerHour) })),
      basis: worstBasis(chosen.map(({ c }) => c.basis)), basedOn: [...new Set(chosen.flatMap(({ c }) => c.basedOn))],
      cost: chosen.reduce((sum, { c, n }) => sum + n * c.cost, 0), perHour: chosen.reduce((sum, { c, n }) => sum + n * (c.price.perHour + c.price.extrasPerHour), 0),
      binds: '', slack: '', choices: [], unfit: false, remedies: [],
    }
    if (chosen.length === 0) return sizing
    const machines = chosen.reduce((sum, { n }) => sum + n, 0)
    sizing.binds = `${saySignalLoad(sorted[0]!).replace(/^./, c => c.toUpperCase())} is the fullest: ${percent(sorted[0]!.share)} of what its machines may bear${this.spares > 0 ? `, ${percent(sizing.withSparesLost)} once ${this.spares} ${this.spares === 1 ? 'is' : 'are'} lost` : ''}.`
    sizing.slack = [...sorted.slice(1, 3).map(l => `${saySignalLoad(l)} ${percent(l.share)}`), sayFree(Math.max(0, this.wishes.mostMachines - machines))].join(', ')
    sizing.choices = this.choices(candidates, sizing)
    return sizing
  }

  /** One spare more, or one fewer. */
  private choices(candidates: readonly Candidate[], { cost }: LocationSizing): SizingChoice[] {
    if (this.location.choose !== 'cheapest') return []
    const found: SizingChoice[] = []
    const other = (spares: number, kind: SizingChoice['kind'], sentence: (machines: string) => string) => {
      const counts = cheapest(candidates, { ...this.wishes, spares })
      if (!counts) return
      const difference = candidates.reduce((sum, c, i) => sum + c.cost * counts[i]!, 0) - cost
      if (kind === 'safer' || difference < -0.0005) found.push({ kind, sentence: sentence(sayMachines(candidates, counts)), cost: difference })
    }
    other(this.spares + 1, 'safer', machines => `To bear the loss of ${this.spares + 1}: ${machines}.`)
    if (this.spares > 0) other(this.spares - 1, 'cheaper', machines => `With ${this.spares - 1 === 0 ? 'no spare' : 'one spare fewer'}: ${machines}.`)
    return found
  }

  private whyNot(candidates: readonly Candidate[]): string {
    const { code } = this.location
    if (candidates.every(c => c.most === 0)) return `${code}: no machine can be had in ${this.offer.region}: ${this.free === 0 ? 'its quota is used up' : 'every type is out of stock'}.`
    const most = Math.max(...candidates.filter(c => c.most > 0).map(c => Math.min(c.most, this.wishes.mostMachines) * c.carries))
    return `${code}: ${this.wishes.mostMachines} machines are free in ${this.offer.region}; they would carry at most ${Math.floor(most * this.users)} of ${this.users} users${this.spares > 0 ? `, and ${this.spares} may be lost` : ''}.`
  }

  /** The smallest single change of each kind. */
  private remedies(candidates: readonly Candidate[]): SizingRemedy[] {
    const { wishes } = this
    const found: SizingRemedy[] = []
    const price = (options: readonly Candidate[], counts: readonly number[]) => options.reduce((sum, c, i) => sum + c.cost * counts[i]!, 0)
    const plenty = candidates.map(c => ({ ...c, most: Math.max(c.most, this.offer.noStock?.includes(c.type.name) ? c.most : 10_000) }))
    const fewest = cheapest(plenty, { ...wishes, mostMachines: 10_000, fewest: 'machines' })
    if (fewest) {
      const more = fewest.reduce((sum, n) => sum + n, 0) - wishes.mostMachines
      if (more > 0) found.push({ kind: 'quota', sentence: `A quota of ${more} more in ${this.offer.region}: ${sayMachines(plenty, fewest)}.`, cost: price(plenty, fewest) })
    }
    for (let spares = this.spares - 1; spares >= 0; spares--) {
      const counts = cheapest(candidates, { ...wishes, spares })
      if (!counts) continue
      found.push({ kind: 'spares', change: { spares }, sentence: spares === 0 ? `No spares: ${sayMachines(candidates, counts)}.` : `${spares} spares only: ${sayMachines(candidates, counts)}.`, cost: price(candidates, counts) })
      break
    }
    for (let headroom = Math.floor(this.headroom * 20 - 1e-9) / 20; headroom >= 0; headroom = Math.round(headroom * 20 - 1) / 20) {
      const tighter = this.candidates(headroom)
      const counts = cheapest(tighter, wishes)
      if (!counts) continue
      found.push({ kind: 'headroom', change: { headroom }, sentence: `A headroom of ${percent(headroom)} instead of ${percent(this.headroom)}: ${sayMachines(tighter, counts)}.`, cost: price(tighter, counts) })
      break
    }
    for (let share = 95; share >= 5; share -= 5) {
      const lighter = candidates.map(c => ({ ...c, carries: c.carries * 100 / share }))
      const counts = cheapest(lighter, wishes)
      if (!counts) continue
      found.push({ kind: 'move', sentence: `${100 - share} % of its users elsewhere: ${sayMachines(lighter, counts)}.`, cost: price(lighter, counts) })
      break
    }
    if (this.location.interruptible && wishes.interruptibleShare < 1) {
      const counts = cheapest(candidates, { ...wishes, interruptibleShare: 1 })
      if (counts) found.push({ kind: 'interruptible', change: { interruptibleShare: 1 }, sentence: `A larger share of interruptible machines: ${sayMachines(candidates, counts)}.`, cost: price(candidates, counts) })
    }
    return found
  }
}

/** What is attached: as written, the provider's own defaults for the rest. */
export function attachedOf({ attached = {} }: Location, { attachments }: RegionOffer): Attached | undefined {
  if (!attachments) return undefined
  const usual = Object.entries(attachments.properties).flatMap(([name, { default: value }]) => value === undefined ? [] : [[name, value] as const])
  return { ...Object.fromEntries(usual), ...attached }
}

/** Whether a plan's sizes rest on anything nobody has measured. */
export function isUnsure(sizings: readonly Pick<LocationSizing, 'basis' | 'users'>[]): boolean {
  return sizings.some(s => s.users > 0 && UNSURE.includes(s.basis))
}

/** “2 × brisk-2, 1 × brisk-1 interruptible” */
export function sayMachines(candidates: readonly Pick<Candidate, 'type' | 'interruptible'>[], counts: readonly number[]): string {
  return candidates.flatMap((c, i) => counts[i]! > 0 ? [`${counts[i]} × ${c.type.name}${c.interruptible ? ' interruptible' : ''}`] : []).join(', ')
}

function sayFree(machines: number): string {
  return machines === 1 ? '1 more machine free' : `${machines} more machines free`
}

export function saySignalLoad({ signal }: Pick<SignalLoad, 'signal'>): string {
  if (signal === 'assumed') return 'assumed capacity'
  return signal === 'tried' ? 'what was tried' : SIGNAL_PHRASES[signal]
}

function percent(share: number): string {
  return Number.isFinite(share) ? `${Math.round(share * 100)} %` : 'more than all'
}
