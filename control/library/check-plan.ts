/** Checks and sizes a plan against what providers offer now. */
import type { PlanCheck } from '../../api/views'
import type { Journey } from '../../core/journey/journey'
import { assumedCapacity, costOf, machinesNeeded, usersAt } from '../../core/fleet/size'
import type { FleetOrder, Plan, RegionOffer } from '../../core/plan/document'
import { planInUsers } from '../../core/plan/expected'
import { problemsOf, type Surroundings } from '../../core/plan/problems'
import { runLengthMs } from '../../core/plan/slice'

export type Offers = Record<string, RegionOffer[] | undefined>

/** Time from the last boot to the start of the load: roll call, rehearsal, arming. Common practice, no source. */
const BEFORE_LOAD_S = 8

export function checkPlan(written: Plan, around: Pick<Surroundings, 'target' | 'journeys' | 'feeds' | 'networks'>, offers: Offers, now: number): PlanCheck {
  const plan = planInUsers(written, around.journeys)
  const problems = problemsOf(written, { ...around, offers, lengthMs: runLengthMs({ plan }), now: new Date(now).toISOString() })
  const orders = ordersOf(plan, offers)
  const lengthS = Math.ceil(runLengthMs({ plan }) / 1000)
  const boots = plan.locations.map(l => offerAt(l, offers)?.bootS ?? 0)
  const gatherS = Math.max(0, ...boots) + BEFORE_LOAD_S
  const sizes = plan.locations.flatMap((l) => {
    const offer = offerAt(l, offers)
    const type = offer?.types.find(t => t.name === l.machineType)
    if (!offer || !type) return []
    const machines = orders.find(o => o.location === l.code)?.machines ?? 0
    return [{ code: l.code, users: usersAt(plan, l.code), machines, needed: machinesNeeded(plan, l.code, type), type: type.name, perHour: machines * type.pricePerHour, quotaMost: offer.quota.most, quotaUsed: offer.quota.used, capacity: machines * assumedCapacity(plan, type) }]
  })
  return {
    problems, sizes, gatherS, lengthS,
    perHour: sizes.reduce((sum, s) => sum + s.perHour, 0),
    forecast: orders.reduce((sum, o) => sum + o.machines * costOf(o.type, (gatherS + lengthS) * 1000), 0),
  }
}

/** The machines a plan takes, where they are known. */
export function fleetOf(plan: Plan, journeys: readonly Journey[], offers: Offers): FleetOrder[] {
  return ordersOf(planInUsers(plan, journeys), offers)
}

function ordersOf(plan: Plan, offers: Offers): FleetOrder[] {
  return plan.locations.flatMap((l): FleetOrder[] => {
    const type = offerAt(l, offers)?.types.find(t => t.name === l.machineType)
    if (!type) return []
    const machines = l.machines === 'auto' ? machinesNeeded(plan, l.code, type) : usersAt(plan, l.code) > 0 ? l.machines : 0
    return machines > 0 ? [{ location: l.code, type, machines }] : []
  })
}

function offerAt(location: Plan['locations'][number], offers: Offers): RegionOffer | undefined {
  return offers[location.provider]?.find(r => r.region === location.region)
}
