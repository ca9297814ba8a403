/**
 * Machines for the peak alone. Of a group, users come in the order of their numbers and leave the other way round, so
 * those above some number are there for a part of the run only. They can be given machines of their own, that come late
 * and leave early. Tried are the stretches in which a location's load is above 10, 20 … 90 % of its peak; each of the
 * two layers is then sized as any location is.
 */
import { cornersOf, levelAt, peakOf, type LoadProfile, type Stay } from '../load/profile'
import { spanOf } from '../load/stays'
import type { Group } from '../plan/document'
import type { PeakShift } from './order'
import type { RegionOffer } from '../offers/machine-type'
import { runLengthMs } from '../plan/length'
import { holds, type SizingWishes } from './cheapest'
import { peakOfMoments, type Demand, type UsersAtMoment } from './demand'
import { takenBy, takenTogether, type LocationOptions, type Taking } from './place'

/**
 * A machine that joins is ordered by so much of the usual boot, and so long, before its first user comes: some take
 * longer. Common practice, no source.
 */
const BOOTS_AHEAD = 1.5
const AHEAD_S = 30
/** The last user's last answer, the last frame, s. */
const LEAVING_S = 15
/** Coming late is worth a grain, and this part of a location's cost, at least. Common practice, no source. */
const WORTHWHILE = 0.05
const FRACTIONS = [0.1, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9]
/** Cuts that look best are sized. */
const SIZED_CUTS = 2
/** A cut is compared with others by a short search; only the best is searched as far as any location. */
const COMPARED_BRANCHES = 300

/** A location's users in two layers, each with its machines. */
export interface Layered {
  through: LocationOptions
  throughTaking: Taking
  peak: LocationOptions
  peakTaking: Taking
  shift: PeakShift
}

interface Cut {
  above: number[]
  span: Stay
  billedS: number
  leadMs: number
}

/** @param whole what is taken when every machine is there all through @returns undefined: that is as good */
export function peakShift(
  place: LocationOptions,
  demand: Demand,
  location: number,
  whole: Taking,
): Layered | undefined {
  const { plan, around } = place
  if (plan.sizing?.allThrough || plan.keepMachinesMin > 0 || place.offer.selfEnrolled || whole.cost <= 0)
    return undefined
  if (place.location.choose !== 'cheapest' && place.location.machines !== 'auto') return undefined
  const mayBePeak = plan.groups.map(
    g => (g.drive?.kind ?? 'users') === 'users' && around.journeys.find(j => j.id === g.journeyId)?.kind !== 'command',
  )
  const cuts = cutsOf(place, demand, location, mayBePeak)
    .map(cut => ({ cut, cost: guess(place, demand, location, cut, whole) }))
    .filter(c => c.cost < whole.cost * (1 - WORTHWHILE))
  let best: { cut: Cut, cost: number } | undefined
  const compare = (cut: Cut) => {
    const layered = layers(place, demand, location, cut, { mostBranches: COMPARED_BRANCHES })
    const cost = layered ? layered.throughTaking.cost + layered.peakTaking.cost : Number.POSITIVE_INFINITY
    if (cost < (best?.cost ?? Number.POSITIVE_INFINITY)) best = { cut, cost }
  }
  for (const { cut } of cuts.sort((a, b) => a.cost - b.cost).slice(0, SIZED_CUTS)) {
    compare(cut)
    const fuller = filled(place, demand, location, cut)
    if (fuller) compare(fuller)
  }
  const layered = best && layers(place, demand, location, best.cut)
  if (!layered) return undefined
  const { throughTaking, peakTaking } = layered
  const grain = Math.min(
    ...peakTaking.candidates.flatMap(({ price }, i) =>
      peakTaking.counts[i]! > 0 ? [(price.grainS / 3600) * (price.perHour + price.extrasPerHour)] : [],
    ),
  )
  const saved = whole.cost - throughTaking.cost - peakTaking.cost
  return saved >= grain - 1e-9 && saved >= WORTHWHILE * whole.cost ? layered : undefined
}

/** How long before its first user comes a machine is ordered, ms. */
export function leadMsOf({ bootS }: Pick<RegionOffer, 'bootS'>): number {
  return Math.ceil(bootS * BOOTS_AHEAD + AHEAD_S) * 1000
}

/**
 * The stretches in which the location's load is above fractions of its peak, each with the users that are there only
 * then.
 */
function cutsOf(place: LocationOptions, demand: Demand, location: number, mayBePeak: readonly boolean[]): Cut[] {
  const { plan } = place
  const curve = curveOf(plan.groups, g => demand.shareAt(g, location))
  const most = curve.reduce((high, p) => Math.max(high, p.before, p.after), 0)
  const found = new Map<string, Cut>()
  for (const fraction of FRACTIONS) {
    const stretch = whenAbove(curve, fraction * most)
    if (!stretch) continue
    const above = plan.groups.map(({ profile }, g) =>
      mayBePeak[g] ? mostOutside(profile, stretch) : Number.POSITIVE_INFINITY,
    )
    const cut = cutFor(place, above)
    if (cut) found.set(above.join(), cut)
  }
  return [...found.values()]
}

/**
 * @param above per group @returns undefined when nobody is above, or their machines would be there as long as the
 * others
 */
function cutFor({ plan, offer, around }: LocationOptions, above: number[]): Cut | undefined {
  const spans = plan.groups.flatMap(({ profile }, g) =>
    above[g]! < peakOf(profile) ? (spanOf(profile, above[g]! + 1) ?? []) : [],
  )
  if (spans.length === 0) return undefined
  const lengthS = runLengthMs({ plan }) / 1000
  const span = { startMs: Math.min(...spans.map(s => s.startMs)), stopMs: Math.max(...spans.map(s => s.stopMs)) }
  const ahead = leadMsOf(offer)
  // One that would have to be ordered before the run begins is gathered with the others.
  const leadMs = span.startMs >= ahead ? ahead : 0
  const endS = Math.min(lengthS, span.stopMs / 1000 + LEAVING_S)
  const billedS = leadMs > 0 ? endS - (span.startMs - leadMs) / 1000 : around.billedS - lengthS + endS
  return billedS < around.billedS ? { above, span, leadMs, billedS } : undefined
}

/** What a cut would cost about, in fractions of the machines that carry the whole. */
function guess(
  place: LocationOptions,
  demand: Demand,
  location: number,
  { above, billedS }: Cut,
  whole: Taking,
): number {
  const { through, peak } = demand.roughly(location, above)
  const part = (layer: readonly UsersAtMoment[]) => peakOfMoments(layer) / Math.max(1, place.users)
  return through.length === 0
    ? Number.POSITIVE_INFINITY
    : whole.cost * (part(through) + (part(peak) * billedS) / place.billedS)
}

/** Those there all through take as many users of the peak as they have room for. */
function filled(place: LocationOptions, demand: Demand, location: number, cut: Cut): Cut | undefined {
  const { plan } = place
  const { through } = demand.roughly(location, cut.above)
  const layer = place.layer(through, place.billedS, place.others)
  const taking = through.length > 0 ? layer.take({ mostBranches: COMPARED_BRANCHES }) : undefined
  if (!taking) return undefined
  const raised = (part: number) =>
    plan.groups.map(({ profile }, g) =>
      cut.above[g]! < peakOf(profile)
        ? cut.above[g]! + Math.floor(part * (peakOf(profile) - cut.above[g]!))
        : cut.above[g]!,
    )
  const fits = (part: number) => {
    const fuller = place.layer(demand.roughly(location, raised(part)).through, place.billedS, place.others)
    return holds(fuller.sameKinds(taking.candidates), taking.counts, fuller.wishes)
  }
  let low = 0
  let high = 1
  for (let i = 0; i < 7; i++) {
    const middle = (low + high) / 2
    if (fits(middle)) low = middle
    else high = middle
  }
  return cutFor(place, raised(low))
}

function layers(
  place: LocationOptions,
  demand: Demand,
  location: number,
  cut: Cut,
  over: Partial<SizingWishes> = {},
): Layered | undefined {
  const { through: throughMoments, peak: peakMoments } = demand.cut(location, cut.above)
  if (throughMoments.length === 0 || peakMoments.length === 0) return undefined
  const through = place.layer(throughMoments, place.billedS, place.others)
  const throughTaking = through.take(over)
  if (!throughTaking) return undefined
  const peak = place.layer(
    peakMoments,
    cut.billedS,
    takenTogether([place.others, takenBy(throughTaking.candidates, throughTaking.counts)]),
  )
  const peakTaking = peak.take(over)
  if (!peakTaking) return undefined
  const above = Object.fromEntries(
    place.plan.groups.flatMap(({ letter }, g) => (Number.isFinite(cut.above[g]!) ? [[letter, cut.above[g]!]] : [])),
  )
  return {
    through,
    throughTaking,
    peak,
    peakTaking,
    shift: { fromMs: cut.span.startMs, toMs: cut.span.stopMs, leadMs: cut.leadMs, above, others: through.users },
  }
}

/** A location's load over time: straight between its points, with a jump at one where before and after differ. */
interface CurvePoint {
  atMs: number
  before: number
  after: number
}

function curveOf(groups: readonly Pick<Group, 'profile'>[], share: (group: number) => number): CurvePoint[] {
  const times = [...new Set(groups.flatMap(g => cornersOf(g.profile).map(c => c.atMs)))].sort((a, b) => a - b)
  const sum = (atMs: number) => groups.reduce((all, { profile }, g) => all + share(g) * levelAt(profile, atMs), 0)
  return times.map(atMs => ({ atMs, before: atMs === 0 ? 0 : sum(atMs - 1e-6), after: sum(atMs) }))
}

/** From the first moment above a level to the last. */
function whenAbove(curve: readonly CurvePoint[], level: number): Stay | undefined {
  let startMs: number | undefined
  let stopMs = 0
  curve.forEach(({ atMs, before, after }, i) => {
    const last = curve[i - 1]
    const crossing =
      last && before !== last.after
        ? last.atMs + ((level - last.after) / (before - last.after)) * (atMs - last.atMs)
        : atMs
    if (last && last.after <= level && before > level) startMs ??= crossing
    if (last && last.after > level && before <= level) stopMs = crossing
    if (before <= level && after > level) startMs ??= atMs
    if (before > level && after <= level) stopMs = atMs
  })
  return startMs === undefined ? undefined : { startMs, stopMs }
}

/**
 * Number of the last user who is also there outside a stretch: users are there while the level is above their number
 * less a half.
 */
function mostOutside(profile: LoadProfile, { startMs, stopMs }: Stay): number {
  const edges = [startMs > 0 ? levelAt(profile, startMs - 1e-6) : 0, levelAt(profile, stopMs)]
  const outside = cornersOf(profile)
    .filter(c => c.atMs < startMs || c.atMs > stopMs)
    .map(c => c.level)
  return Math.max(0, Math.ceil(Math.max(...edges, ...outside) - 0.5 - 1e-6))
}
