/** What the numbers of machines rest on, and how those for the peak come. */
import { ownOf } from '../values/own'
import { DIRECT } from '../network/profile'
import type { Plan } from '../plan/document'
import { forecastBatch } from './forecast-batch'
import { UNSURE } from '../fleet/capacity-book'
import type { LocationSizing } from '../fleet/sizing'
import type { Problem } from './problem'
import { locationOf } from '../plan/in-plan'
import { shareAt } from '../plan/shares'
import type { PlanSurroundings } from './plan-surroundings'

/** What the numbers of machines rest on, where nobody has measured it. */
export function capacityProblems(
  plan: Plan,
  { offers }: PlanSurroundings,
  sizing: readonly LocationSizing[],
): Problem[] {
  // A plan that cannot be sized is told the same: nothing is known.
  const unsure = sizing.filter(s => s.users > 0 && UNSURE.includes(s.basis))
  const byHand = sizing.filter(s => s.users > 0 && s.basis === 'byHand').map(s => s.code)
  const others = sizing.filter(s => s.users > 0 && s.basis === 'otherNetwork').map(s => s.code)
  const found: Problem[] = []
  if (unsure.length > 0 || sizing.length === 0) {
    const codes = unsure.map(s => s.code).join(', ')
    const stale = unsure.some(s => s.basis === 'stale')
    const sentence = stale
      ? `${codes}: what was calibrated has changed since.`
      : unsure.every(s => s.basis === 'assumed')
        ? `Nothing is calibrated${unsure.length === sizing.filter(s => s.users > 0).length ? '' : ` for ${codes}`}: ${plan.assumedUsersPerVcpu} users per vCPU is assumed.`
        : `${codes}: capacity is assumed from another machine type.`
    found.push({
      code: 'capacity-assumed',
      weight: 'costsSoundness',
      sentence,
      remedy: 'The run can be qualified at best.',
      ...calibration(plan, unsure, offers, stale),
    })
  }
  if (others.length > 0)
    found.push({
      code: 'capacity-other-network',
      weight: 'toKnow',
      sentence: `${others.join(', ')}: calibrated with another network than its users have.`,
      remedy: 'Shaping takes some CPU: calibrate with theirs to be exact.',
    })
  if (byHand.length > 0)
    found.push({
      code: 'capacity-by-hand',
      weight: 'toKnow',
      sentence: `${byHand.join(', ')}: capacity was set by hand.`,
      remedy: 'Nobody has measured it here.',
    })
  return found
}

/** Machines that come while the run loads may not come. */
export function peakProblems(sizing: readonly LocationSizing[]): Problem[] {
  const late = sizing.filter(s => s.machines.some(m => m.shift && m.shift.leadMs > 0))
  if (late.length === 0) return []
  const count = late.reduce((sum, s) => sum + s.machines.reduce((n, m) => n + (m.shift ? m.count : 0), 0), 0)
  const more = sizing.flatMap(s => s.choices).reduce((sum, c) => sum + (c.change?.allThrough ? c.cost : 0), 0)
  return [
    {
      code: 'joins-late',
      weight: 'toKnow',
      sentence: `${late.map(s => s.code).join(', ')}: ${count} ${count === 1 ? 'machine is' : 'machines are'} ordered while the run loads, for its peak only.`,
      remedy: 'Cheaper; should one not come, its users go to others as far as those have room.',
      fix: { kind: 'setSizing', allThrough: true },
      price: `+€${more.toFixed(more < 0.1 ? 3 : 2)}`,
    },
  ]
}

/**
 * The batch that would measure what is assumed: the journeys of the first such provider, on the types its locations
 * take.
 */
function calibration(
  plan: Plan,
  unsure: readonly LocationSizing[],
  offers: PlanSurroundings['offers'],
  again: boolean,
): Partial<Problem> {
  const at = unsure.map(s => locationOf(plan, s.code))
  const [first] = at
  if (!first) return {}
  const here = at.filter(l => l.provider === first.provider)
  const named = new Set(
    here.flatMap(l =>
      l.choose === 'cheapest' ? (unsure.find(s => s.code === l.code)?.machines ?? []).map(m => m.type.name) : [l.machineType],
    ),
  )
  const types = (ownOf(offers, first.provider) ?? [])
    .flatMap(o => o.types)
    .filter((t, i, all) => named.has(t.name) && all.findIndex(o => o.name === t.name) === i)
  const journeys = [
    ...new Set(plan.groups.filter(g => here.some(l => shareAt(plan, g.letter, l.code) > 0)).map(g => g.journeyId)),
  ]
  if (types.length === 0 || journeys.length === 0) return {}
  const { minutes, cost } = forecastBatch(types, journeys.length)
  return {
    fix: { kind: 'calibrate', journeys, provider: first.provider, types: types.map(t => t.name), networks: [DIRECT] },
    price: `${again ? 'again, ' : ''}about ${minutes} min · €${cost.toFixed(2)}`,
  }
}
