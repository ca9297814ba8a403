/**
 * How many machines of which type a plan takes at each location: pinned by hand or the cheapest, inside quota and
 * stock, with spares; what binds, what other choices would cost, and, when nothing fits, the smallest single change
 * that would help.
 */
import { ownOf } from '../values/own'
import { SIGNAL_PHRASES, type Signal } from '../capacity/signals'
import type { MachineType } from '../offers/machine-type'
import type { PeakShift } from './order'
import type { Plan, Sizing } from '../plan/document'
import { worstBasis, type Basis } from './capacity-book'
import { cheapest, lostWith } from './cheapest'
import { Demand } from './demand'
import { peakShift, type Layered } from './peak-shift'
import {
  costIn,
  machinesIn,
  NOBODY,
  LocationOptions,
  sayMachines,
  takenBy,
  type Candidate,
  type KnownUses,
  type SizingAround,
  type Taken,
  type Taking,
} from './place'
import { RegionQuota } from './region-quota'
import { entriesIn } from '../values/written-out'

/** A hint beside what is pinned must not cost a frame. */
const HINT_BRANCHES = 300

export interface TakenMachines {
  type: MachineType
  interruptible: boolean
  count: number
  /** Users of the location, in the mix of those it plays, that one carries. */
  carries: number
  /** They are there for the peak only. */
  shift?: PeakShift
  /** Of all of them for the whole run, and per hour. */
  cost: number
  perHour: number
}

/** A signal's part of what its machines may bear: 1 is the limit less the headroom. */
export interface SignalLoad {
  signal: Signal | 'tried' | 'assumed'
  share: number
  type: string
  peak?: true
}

export type RemedyKind = 'quota' | 'spares' | 'headroom' | 'move' | 'interruptible'

/** A single change that would make it fit; `change`: where the plan's own sizing can be changed so. */
export interface SizingRemedy {
  kind: RemedyKind
  sentence: string
  cost?: number
  change?: Sizing
}

/**
 * Another choice beside the one made. `cost`: difference for the whole run; `change`: where the plan's own sizing can
 * be changed so.
 */
export interface SizingChoice {
  kind: 'safer' | 'cheaper'
  sentence: string
  cost: number
  change?: Sizing
}

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
  /** Load of the fullest signal once the spares are lost; left out: nothing would be left to carry it. */
  withSparesLost?: number
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
  const demand = new Demand(plan)
  const uses = plan.locations.map((): KnownUses => new Map())
  const placeAt = (l: number, others: Taken): LocationOptions | undefined => {
    const location = plan.locations[l]!
    const offer = ownOf(around.offers, location.provider)?.find(r => r.region === location.region)
    return offer && new LocationOptions(plan, location, offer, demand.at(l), around, others, around.billedS, uses[l])
  }
  const alone = plan.locations.map((_, l) => placeAt(l, NOBODY))
  const quotas = new Map<string, RegionQuota>()
  const keys = plan.locations.map(l => `${l.provider}/${l.region}`)
  return plan.locations.flatMap((location, l) => {
    const key = keys[l]!
    const quota =
      quotas.get(key) ?? new RegionQuota(alone.flatMap((place, i) => (place && keys[i] === key ? place : [])))
    quotas.set(key, quota)
    const place = quota.others.machines === 0 ? alone[l] : placeAt(l, quota.others)
    const sizing =
      place && (location.choose === 'cheapest' ? sizeCheapest(place, demand, l) : sizePinned(place, demand, l))
    quota.take(
      sizing
        ? takenBy(
            sizing.machines,
            sizing.machines.map(m => m.count),
          )
        : NOBODY,
    )
    return sizing ?? []
  })
}

function sizePinned(place: LocationOptions, demand: Demand, location: number): LocationSizing | undefined {
  const candidate = place.pinned()
  if (!candidate) return undefined
  if (place.users === 0) return answer(place, { candidates: [candidate], counts: [0], cost: 0, gap: 0 }, 0)
  const needed = place.least(candidate)
  const counts = [place.pinnedCount(candidate)]
  const sizing = inLayers(
    place,
    demand,
    location,
    { candidates: [candidate], counts, cost: costIn([candidate], counts), gap: 0 },
    needed,
  )
  const others = place.candidates()
  const cheaper = cheapest(others, { ...place.wishes, mostBranches: HINT_BRANCHES })
  const saves = cheaper ? sizing.cost - costIn(others, cheaper) : 0
  if (cheaper && saves > 0.0005)
    sizing.choices.push({
      kind: 'cheaper',
      sentence: `The cheapest here would be ${sayMachines(others, cheaper)}.`,
      cost: -saves,
    })
  return sizing
}

function sizeCheapest(place: LocationOptions, demand: Demand, location: number): LocationSizing {
  const nothing = (): Taking => {
    const candidates = place.candidates()
    return { candidates, counts: candidates.map(() => 0), cost: 0, gap: 0 }
  }
  if (place.users === 0) return answer(place, nothing(), 0)
  const found = place.take()
  if (!found) {
    const none = nothing()
    return {
      ...answer(place, none, 0),
      unfit: true,
      remedies: remedies(place, none.candidates),
      binds: whyNot(place, none.candidates),
    }
  }
  const sizing = inLayers(place, demand, location, found, machinesIn(found.counts))
  // More ways than could be tried: how far from the cheapest it may be.
  return found.gap > 0.0005
    ? { ...sizing, slack: `${sizing.slack}; at most ${(found.gap * 100).toFixed(1)} % above the cheapest there may be` }
    : sizing
}

/** Machines for the peak alone, where they are cheaper than all of them all through. */
function inLayers(
  place: LocationOptions,
  demand: Demand,
  location: number,
  whole: Taking,
  needed: number,
): LocationSizing {
  const layered = peakShift(place, demand, location, whole)
  if (!layered) return answer(place, whole, needed)
  const { throughTaking, peakTaking } = layered
  const sizing = together(place, layered)
  sizing.choices.push({
    kind: 'safer',
    sentence: `All of them there all through: ${sayMachines(whole.candidates, whole.counts)}.`,
    cost: whole.cost - throughTaking.cost - peakTaking.cost,
    change: { allThrough: true },
  })
  return sizing
}

/** The two layers of a location as one. */
function together(
  place: LocationOptions,
  { through, throughTaking, peak, peakTaking, shift }: Layered,
): LocationSizing {
  const all = answer(through, throughTaking, machinesIn(throughTaking.counts))
  const late = answer(peak, peakTaking, machinesIn(peakTaking.counts))
  const loads = [...all.loads, ...late.loads.map(l => ({ ...l, peak: true as const }))].sort(
    (a, b) => b.share - a.share,
  )
  const withSparesLost =
    all.withSparesLost === undefined || late.withSparesLost === undefined
      ? undefined
      : Math.max(all.withSparesLost, late.withSparesLost)
  const { withSparesLost: _, ...whole } = all
  return {
    ...whole,
    users: place.users,
    needed: all.needed + late.needed,
    carries: Math.floor(place.users / loads[0]!.share + 1e-6),
    loads,
    ...(withSparesLost === undefined ? {} : { withSparesLost }),
    machines: [...all.machines, ...late.machines.map(m => ({ ...m, shift }))],
    basis: worstBasis([all.basis, late.basis]),
    basedOn: [...new Set([...all.basedOn, ...late.basedOn])],
    cost: all.cost + late.cost,
    perHour: all.perHour + late.perHour,
    binds: sayBinds(loads[0]!, withSparesLost, place.spares),
    slack: saySlack(
      loads.slice(1, 3),
      place.wishes.mostMachines - machinesIn(throughTaking.counts) - machinesIn(peakTaking.counts),
    ),
    choices: [],
  }
}

function answer(place: LocationOptions, { candidates, counts }: Taking, needed: number): LocationSizing {
  const { location, users, spares } = place
  const carried = candidates.reduce((sum, c, i) => sum + c.carries * counts[i]!, 0)
  const chosen = candidates.flatMap((c, i) => (counts[i]! > 0 ? [{ c, n: counts[i]! }] : []))
  const fullest = new Map<string, SignalLoad>()
  for (const { c } of chosen)
    for (const [signal, share] of entriesIn(c.loads)) {
      const load = { signal, share: (share * c.carries) / carried, type: c.type.name }
      if ((fullest.get(signal)?.share ?? -1) < load.share) fullest.set(signal, load)
    }
  const sorted = [...fullest.values()].sort((a, b) => b.share - a.share)
  const lost = lostWith(candidates, counts, spares)
  const sizing: LocationSizing = {
    code: location.code,
    users,
    needed,
    carries: Math.floor(carried * users + 1e-6),
    loads: sorted,
    ...(carried > lost ? { withSparesLost: 1 / (carried - lost) } : {}),
    machines: chosen.map(({ c, n }) => ({
      type: c.type,
      interruptible: c.price.interruptible,
      count: n,
      carries: c.carries * users,
      cost: n * c.cost,
      perHour: n * (c.price.perHour + c.price.extrasPerHour),
    })),
    basis: worstBasis(chosen.map(({ c }) => c.basis)),
    basedOn: [...new Set(chosen.flatMap(({ c }) => c.basedOn))],
    cost: chosen.reduce((sum, { c, n }) => sum + n * c.cost, 0),
    perHour: chosen.reduce((sum, { c, n }) => sum + n * (c.price.perHour + c.price.extrasPerHour), 0),
    binds: '',
    slack: '',
    choices: [],
    unfit: false,
    remedies: [],
  }
  if (chosen.length === 0) return sizing
  sizing.binds = sayBinds(sorted[0]!, sizing.withSparesLost, spares)
  sizing.slack = saySlack(sorted.slice(1, 3), place.wishes.mostMachines - chosen.reduce((sum, { n }) => sum + n, 0))
  sizing.choices = choices(place, candidates, sizing)
  return sizing
}

/** One spare more, or one fewer. */
function choices(
  { location, spares, wishes }: LocationOptions,
  candidates: readonly Candidate[],
  { cost }: LocationSizing,
): SizingChoice[] {
  if (location.choose !== 'cheapest') return []
  const found: SizingChoice[] = []
  const other = (wanted: number, kind: SizingChoice['kind'], sentence: (machines: string) => string) => {
    const counts = cheapest(candidates, { ...wishes, spares: wanted })
    if (!counts) return
    const difference = costIn(candidates, counts) - cost
    if (kind === 'safer' || difference < -0.0005)
      found.push({ kind, sentence: sentence(sayMachines(candidates, counts)), cost: difference })
  }
  other(spares + 1, 'safer', machines => `To bear the loss of ${spares + 1}: ${machines}.`)
  if (spares > 0)
    other(spares - 1, 'cheaper', machines => `With ${spares - 1 === 0 ? 'no spare' : 'one spare fewer'}: ${machines}.`)
  return found
}

function whyNot(
  { location, offer, free, wishes, spares, users }: LocationOptions,
  candidates: readonly Candidate[],
): string {
  if (candidates.every(c => c.most === 0))
    return `${location.code}: no machine can be had in ${offer.region}: ${free === 0 ? 'its quota is used up' : 'every type is out of stock'}.`
  const most = Math.max(
    ...candidates.filter(c => c.most > 0).map(c => Math.min(c.most, wishes.mostMachines) * c.carries),
  )
  return `${location.code}: ${wishes.mostMachines} machines are free in ${offer.region}; they would carry at most ${Math.floor(most * users)} of ${users} users${spares > 0 ? `, and ${spares} may be lost` : ''}.`
}

/** The smallest single change of each kind. */
// eslint-disable-next-line max-lines-per-function -- a list, in the order in which it is told
function remedies(place: LocationOptions, candidates: readonly Candidate[]): SizingRemedy[] {
  const { wishes, offer } = place
  const found: SizingRemedy[] = []
  const plenty = candidates.map(c => ({
    ...c,
    most: Math.max(c.most, offer.noStock?.includes(c.type.name) ? c.most : 10_000),
  }))
  const fewest = cheapest(plenty, { ...wishes, mostMachines: 10_000, fewest: 'machines' })
  if (fewest) {
    const more = machinesIn(fewest) - wishes.mostMachines
    if (more > 0)
      found.push({
        kind: 'quota',
        sentence: `A quota of ${more} more in ${offer.region}: ${sayMachines(plenty, fewest)}.`,
        cost: costIn(plenty, fewest),
      })
  }
  for (let spares = place.spares - 1; spares >= 0; spares--) {
    const counts = cheapest(candidates, { ...wishes, spares })
    if (!counts) continue
    found.push({
      kind: 'spares',
      change: { spares },
      sentence:
        spares === 0
          ? `No spares: ${sayMachines(candidates, counts)}.`
          : `${spares} spares only: ${sayMachines(candidates, counts)}.`,
      cost: costIn(candidates, counts),
    })
    break
  }
  for (
    let headroom = Math.floor(place.headroom * 20 - 1e-9) / 20;
    headroom >= 0;
    headroom = Math.round(headroom * 20 - 1) / 20
  ) {
    const tighter = place.candidates(headroom)
    const counts = cheapest(tighter, wishes)
    if (!counts) continue
    found.push({
      kind: 'headroom',
      change: { headroom },
      sentence: `A headroom of ${percent(headroom)} instead of ${percent(place.headroom)}: ${sayMachines(tighter, counts)}.`,
      cost: costIn(tighter, counts),
    })
    break
  }
  for (let share = 95; share >= 5; share -= 5) {
    const lighter = candidates.map(c => ({ ...c, carries: (c.carries * 100) / share }))
    const counts = cheapest(lighter, wishes)
    if (!counts) continue
    found.push({
      kind: 'move',
      sentence: `${100 - share} % of its users elsewhere: ${sayMachines(lighter, counts)}.`,
      cost: costIn(lighter, counts),
    })
    break
  }
  if (place.location.interruptible && wishes.interruptibleShare < 1) {
    const counts = cheapest(candidates, { ...wishes, interruptibleShare: 1 })
    if (counts)
      found.push({
        kind: 'interruptible',
        change: { interruptibleShare: 1 },
        sentence: `A larger share of interruptible machines: ${sayMachines(candidates, counts)}.`,
        cost: costIn(candidates, counts),
      })
  }
  return found
}

function sayBinds(fullest: SignalLoad, withSparesLost: number | undefined, spares: number): string {
  const then = withSparesLost === undefined ? 'with nothing left' : percent(withSparesLost)
  const lost = spares > 0 ? `, ${then} once ${spares} ${spares === 1 ? 'is' : 'are'} lost` : ''
  return `${saySignalLoad(fullest).replace(/^./, c => c.toUpperCase())} is the fullest: ${percent(fullest.share)} of what ${fullest.peak ? 'the machines of the peak' : 'its machines'} may bear${lost}.`
}

function saySlack(loads: readonly SignalLoad[], free: number): string {
  return [
    ...loads.map(l => `${saySignalLoad(l)} ${percent(l.share)}${l.peak ? ' at the peak' : ''}`),
    sayFree(Math.max(0, free)),
  ].join(', ')
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
