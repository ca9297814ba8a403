/**
 * When a generator is lost under load, the others of its location take over what it bore, never past what they carry;
 * what has no room is shed, and said. Users come and passes start on the others; a held rate follows by itself, and is
 * held lower where it would push them too far.
 */
import { peakOf } from '../../core/load/profile'
import { assignedLoadsOf, evenly, partsOf, type AssignedLoad, type Piece } from '../../core/run/assigned-load'
import { orderOfPlace } from '../../core/fleet/order'
import type { RunDocument } from '../../core/run/document'
import { shareOut } from '../../core/placement/share-out'
import { capacitiesOf } from '../library/supplies'
import type { Shifted } from '../store/runs'
import type { ActiveRun, PhaseTools } from './active-run'
import { present } from '../../core/values/present'

/**
 * Deals out what a generator bore, and keeps that. Those who take it learn of it at the next look.
 * @param number of the generator that is lost
 * @returns what is to be said of it; undefined where nothing can be moved
 */
export function reassign(run: ActiveRun, number: number, { runs }: PhaseTools): string | undefined {
  // A machine that is taken back has handed everything over before it went.
  if (isBare(run, number)) return 'What it bore had been handed over.'
  const { generators } = run
  const { location } = generators[number]!
  const { code } = run.document.plan.locations[location]!
  const standing = standingOf(run)
  const keep = (g: number, shifted: Shifted) => {
    run.shifted.set(g, shifted)
    runs.setShifted(run.id, g, shifted)
  }
  const orphans = evenly(standing[number]!.pieces)
  const { fixed, rated } = standing[number]!.assigned
  const besides = [
    ...(fixed > 0 ? [`${Math.ceil(fixed)} users of command journeys are missing.`] : []),
    ...(rated.length > 0 ? ['Its part of held rates is asked of all others.'] : []),
  ]
  keep(number, { taken: [], isBare: true })
  if (orphans.length === 0) return besides.join(' ') || undefined
  // Runs of earlier releases do not say what a machine carries: nobody is pushed. Who is there for the peak only leaves
  // too early for what the others bear.
  const left = [...generators.keys()].filter(
    g =>
      g !== number &&
      generators[g]!.location === location &&
      isThere(run, g) &&
      standing[g]!.carries !== undefined &&
      (standing[number]!.isOfPeak || !standing[g]!.isOfPeak),
  )
  const to = shareOut(
    orphans.length,
    left.map(g => ({ carries: Math.floor(present(standing[g]!.carries, 'what it carries')), held: Math.ceil(heldBy(standing[g]!)) })),
  )
  const takers: string[] = []
  for (const [i, g] of left.entries()) {
    const taken = orphans.filter((_, u) => to[u] === i)
    if (taken.length === 0) continue
    keep(g, { taken: [...(run.shifted.get(g)?.taken ?? []), ...taken], isBare: false })
    takers.push(generators[g]!.name)
  }
  const shed = to.filter(t => t < 0).length
  const moved = orphans.length - shed
  const all = `its ${orphans.length} users${orphans.some(o => 'slot' in o) ? '’ worth of load' : ''}`
  return [
    `${moved > 0 ? `${moved} of ${all} go to ${takers.join(', ')}` : `None of ${all} go elsewhere`}${shed > 0 ? `; ${shed} are shed: ${left.length === 0 ? `nobody is left at ${code}` : 'the others would be past what they carry'}` : ''}.`,
    ...besides,
  ].join(' ')
}

/**
 * Tells each generator that has taken load over all of it, once per connection and whenever it grows: what was begun is
 * not begun again.
 */
export function tellTakers(run: ActiveRun, { hub }: PhaseTools): void {
  for (const [g, { taken }] of run.shifted) {
    const connection = taken.length > 0 ? hub.connections.get(run.generators[g]!.machineId) : undefined
    if (connection?.work.state !== 'loading' || run.toldTaken.get(connection) === taken.length) continue
    run.toldTaken.set(connection, taken.length)
    connection.say({ kind: 'takeOver', runId: String(run.id), lost: partsOf(taken) })
  }
}

/** It has handed over whatever it bore. */
export function isBare({ shifted }: ActiveRun, number: number): boolean {
  return shifted.get(number)?.isBare === true
}

/**
 * Holds rates no higher than those who are left carry. Before a loss nothing is held back. @returns what is to be said;
 * undefined when they are held as before
 */
export function limitRates(run: ActiveRun): string | undefined {
  if (!run.steering.active) return undefined
  const { plan } = run.document
  const standing = standingOf(run)
  const rated = [...new Set(standing.flatMap(s => s.assigned.rated.map(r => r.group)))]
  const there = standing.filter((_, g) => isThere(run, g))
  // What stays on those who are left when the rest of them all is asked of them too.
  const total = (of: typeof standing, group: number) => of.reduce((sum, s) => sum + ratedBy(s, group), 0)
  const grown = new Map(rated.map(group => [group, total(standing, group) / Math.max(1e-9, total(there, group))]))
  let part = 1
  for (const s of there) {
    if (s.carries === undefined) continue
    const before = rated.reduce((sum, group) => sum + ratedBy(s, group), 0)
    const after = rated.reduce((sum, group) => sum + ratedBy(s, group) * present(grown.get(group), 'a group that is rated'), 0)
    // A machine that was given too much from the beginning is not relieved by another's loss.
    const room = Math.max(before, s.carries - s.pieces.length - s.assigned.fixed)
    if (after > 0) part = Math.min(part, room / after)
  }
  if (part >= 1 || !run.steering.holdAt(part)) return undefined
  return rated
    .map(
      group =>
        `${plan.groups[group]!.name}: no more than ${(peakOf(plan.groups[group]!.profile) * part).toFixed(1)} requests/s from now on; more would push the others past what they carry.`,
    )
    .join(' ')
}

interface Standing {
  /** As dealt before the run. */
  assigned: AssignedLoad
  /** Its own, and what it has taken over. */
  pieces: readonly Piece[]
  /** Users; undefined: nobody knows. */
  carries: number | undefined
  isOfPeak: boolean
}

/** All users are dealt for it: once a document is enough. */
const known = new WeakMap<RunDocument, AssignedLoad[][]>()

function assignedLoadsOnce(document: RunDocument): AssignedLoad[][] {
  let assignedLoads = known.get(document)
  if (!assignedLoads) known.set(document, (assignedLoads = assignedLoadsOf(document, capacitiesOf(document))))
  return assignedLoads
}

/** How each generator of the run stands now. */
function standingOf({ document, generators, shifted }: ActiveRun): Standing[] {
  const assignedLoads = assignedLoadsOnce(document)
  const places = document.plan.locations.map(() => 0)
  return generators.map(({ location }, g) => {
    const place = places[location]!++
    const assigned = assignedLoads[location]![place] ?? { pieces: [], fixed: 0, rated: [] }
    const order = orderOfPlace(document.fleet, document.plan.locations[location]!.code, place)
    const { taken, isBare } = shifted.get(g) ?? { taken: [], isBare: false }
    return {
      assigned,
      pieces: isBare ? [] : taken.length === 0 ? assigned.pieces : [...assigned.pieces, ...taken],
      carries: order?.carries,
      isOfPeak: order?.shift !== undefined,
    }
  })
}

function isThere(run: ActiveRun, g: number): boolean {
  const part = run.parts.of(g)
  return !isBare(run, g) && part.is === 'playing' && part.silentSince === undefined
}

function heldBy({ pieces, assigned }: Standing): number {
  return pieces.length + assigned.fixed + assigned.rated.reduce((sum, r) => sum + r.users, 0)
}

function ratedBy({ assigned }: Standing, group: number): number {
  return assigned.rated.find(r => r.group === group)?.users ?? 0
}
