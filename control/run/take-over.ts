/**
 * When a generator is lost under load, the others of its location take over what it bore, never past what they carry; what has no room is shed, and said. Users
 * come and passes start on the others; a held rate follows by itself, and is held lower where it would push them too far.
 */
import { peakOf } from '../../core/load/profile'
import { burdensOf, evenly, partsOf, type Burden, type Piece } from '../../core/plan/burden'
import { orderOfPlace, type RunDocument } from '../../core/plan/document'
import { shareOut } from '../../core/placement/share-out'
import { capacitiesOf } from '../library/supplies'
import { crewOf, type ActiveRun, type PhaseTools } from './active-run'

/**
 * @param number of the generator that is lost
 * @param told the others know already: a process that takes a run up only learns again who bears what
 * @returns what is to be said of it; undefined where nothing can be moved
 */
export function takeOver(run: ActiveRun, number: number, tools: PhaseTools, told = false): string | undefined {
  const { generators } = run
  const standing = standingOf(run)
  const { location } = generators[number]!
  const code = run.document.plan.locations[location]!.code
  // A machine that is taken back has handed everything over before it went.
  if (run.carried.get(number)?.length === 0) return 'What it bore had been handed over.'
  const orphans = evenly(standing[number]!.pieces)
  const { fixed, rated } = standing[number]!.burden
  const besides = [...(fixed > 0 ? [`${Math.ceil(fixed)} users of command journeys are missing.`] : []), ...(rated.length > 0 ? ['Its part of held rates is asked of all others.'] : [])]
  if (orphans.length === 0) return besides.join(' ') || undefined
  // Runs of earlier releases do not say what a machine carries: nobody is pushed. Who is there for the peak only leaves too early for what the others bear.
  const left = [...generators.keys()].filter(g => g !== number && generators[g]!.location === location && isThere(run, g) && standing[g]!.carries !== undefined && (standing[number]!.isOfPeak || !standing[g]!.isOfPeak))
  const to = shareOut(orphans.length, left.map(g => ({ carries: Math.floor(standing[g]!.carries!), held: Math.ceil(heldBy(standing[g]!)) })))
  const crew = new Map(crewOf(run, tools).map(c => [c.machine.id, c.connection]))
  const takers: string[] = []
  for (const [i, g] of left.entries()) {
    const taken = orphans.filter((_, u) => to[u] === i)
    if (taken.length === 0) continue
    run.carried.set(g, [...standing[g]!.pieces, ...taken])
    if (!told) crew.get(generators[g]!.machineId)?.say({ kind: 'takeOver', runId: String(run.id), lost: partsOf(taken) })
    takers.push(generators[g]!.name)
  }
  run.carried.set(number, [])
  const shed = to.filter(t => t < 0).length
  const moved = orphans.length - shed
  const all = `its ${orphans.length} users${orphans.some(o => 'slot' in o) ? '’ worth of load' : ''}`
  return [`${moved > 0 ? `${moved} of ${all} go to ${takers.join(', ')}` : `None of ${all} go elsewhere`}${shed > 0 ? `; ${shed} are shed: ${left.length === 0 ? `nobody is left at ${code}` : 'the others would be past what they carry'}` : ''}.`, ...besides].join(' ')
}

/** Holds rates no higher than those who are left carry. Before a loss nothing is held back. @returns what is to be said; undefined when they are held as before */
export function limitRates(run: ActiveRun): string | undefined {
  if (!run.steering.active) return undefined
  const { plan } = run.document
  const standing = standingOf(run)
  const rated = [...new Set(standing.flatMap(s => s.burden.rated.map(r => r.group)))]
  const there = standing.filter((_, g) => isThere(run, g))
  // What stays on those who are left when the rest of them all is asked of them too.
  const total = (of: typeof standing, group: number) => of.reduce((sum, s) => sum + ratedBy(s, group), 0)
  const grown = new Map(rated.map(group => [group, total(standing, group) / Math.max(1e-9, total(there, group))]))
  let part = 1
  for (const s of there) {
    if (s.carries === undefined) continue
    const before = rated.reduce((sum, group) => sum + ratedBy(s, group), 0)
    const after = rated.reduce((sum, group) => sum + ratedBy(s, group) * grown.get(group)!, 0)
    // A machine that was given too much from the beginning is not relieved by another's loss.
    const room = Math.max(before, s.carries - s.pieces.length - s.burden.fixed)
    if (after > 0) part = Math.min(part, room / after)
  }
  if (part >= 1 || !run.steering.holdAt(part)) return undefined
  return rated.map(group => `${plan.groups[group]!.name}: no more than ${(peakOf(plan.groups[group]!.profile) * part).toFixed(1)} requests/s from now on; more would push the others past what they carry.`).join(' ')
}

interface Standing {
  /** As dealt before the run. */
  burden: Burden
  /** Its own, and what it has taken over. */
  pieces: readonly Piece[]
  /** Users; undefined: nobody knows. */
  carries: number | undefined
  isOfPeak: boolean
}

/** All users are dealt for it: once a document is enough. */
const known = new WeakMap<RunDocument, Burden[][]>()

function burdensOnce(document: RunDocument): Burden[][] {
  let burdens = known.get(document)
  if (!burdens) known.set(document, burdens = burdensOf(document, capacitiesOf(document)))
  return burdens
}

/** How each generator of the run stands now. */
function standingOf({ document, generators, carried }: ActiveRun): Standing[] {
  const burdens = burdensOnce(document)
  const places = document.plan.locations.map(() => 0)
  return generators.map(({ location }, g) => {
    const place = places[location]!++
    const burden = burdens[location]![place] ?? { pieces: [], fixed: 0, rated: [] }
    const order = orderOfPlace(document.fleet, document.plan.locations[location]!.code, place)
    return { burden, pieces: carried.get(g) ?? burden.pieces, carries: order?.carries, isOfPeak: order?.shift !== undefined }
  })
}

function isThere({ goneAtSecond, leaving, finished, coming }: ActiveRun, g: number): boolean {
  return !goneAtSecond.has(g) && !leaving.has(g) && !finished.has(g) && !coming.has(g)
}

function heldBy({ pieces, burden }: Standing): number {
  return pieces.length + burden.fixed + burden.rated.reduce((sum, r) => sum + r.users, 0)
}

function ratedBy({ burden }: Standing, group: number): number {
  return burden.rated.find(r => r.group === group)?.users ?? 0
}
