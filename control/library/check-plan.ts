/** Checks and sizes a plan against what providers offer now, and against the guard rails. */
import type { PlanCheck } from '../../api/views'
import { costOf, priceOf } from '../../core/fleet/cost'
import type { Journey } from '../../core/journey/journey'
import { assumedCapacity, machinesNeeded, usersAt } from '../../core/fleet/size'
import { extrasOf, type Attached, type FleetOrder, type Location, type Plan, type RegionOffer } from '../../core/plan/document'
import { planAtMost, planInUsers } from '../../core/plan/expected'
import { peakOfPlan } from '../../core/plan/peak'
import { inTheWay, type Problem } from '../../core/plan/problem'
import { problemsOf, type Surroundings } from '../../core/plan/problems'
import { runLengthMs } from '../../core/plan/slice'
import { amount, type GuardRails } from '../fleet/money'

export type Offers = Record<string, RegionOffer[] | undefined>

/** Guard rails with what has been spent of them. */
export interface Allowance { rails: GuardRails, spentToday: number }

/** Time from the last boot to the start of the load: roll call, rehearsal, arming. Common practice, no source. */
const BEFORE_LOAD_S = 8

export function checkPlan(written: Plan, around: Pick<Surroundings, 'target' | 'journeys' | 'feeds' | 'networks'>, offers: Offers, now: number, allowance?: Allowance): PlanCheck {
  const plan = planInUsers(written, around.journeys)
  const orders = ordersOf(plan, offers)
  const lengthS = Math.ceil(runLengthMs({ plan }) / 1000)
  const boots = plan.locations.map(l => offerAt(l, offers)?.bootS ?? 0)
  const gatherS = Math.max(0, ...boots) + BEFORE_LOAD_S
  const sizes = plan.locations.flatMap((l) => {
    const offer = offerAt(l, offers)
    const type = offer?.types.find(t => t.name === l.machineType)
    if (!offer || !type) return []
    const order = orders.find(o => o.location === l.code)
    const machines = order?.machines ?? 0
    const price = priceOf(type, { ...l, extrasPerHour: order?.extrasPerHour ?? 0 })
    return [{ code: l.code, users: usersAt(plan, l.code), machines, needed: machinesNeeded(plan, l.code, type), type: type.name, perHour: machines * (price.perHour + price.extrasPerHour), quotaMost: offer.quota.most, quotaUsed: offer.quota.used, capacity: machines * assumedCapacity(plan, type) }]
  })
  const forecast = orders.reduce((sum, o) => sum + o.machines * costOf(priceOf(o.type, o), (gatherS + lengthS + written.keepMachinesMin * 60) * 1000), 0)
  const problems = problemsOf(written, { ...around, offers, lengthMs: runLengthMs({ plan }), now: new Date(now).toISOString() })
  const railed = allowance ? railProblems(written, around.journeys, orders, forecast, lengthS, allowance) : []
  return { problems: [...railed, ...problems], sizes, gatherS, lengthS, perHour: sizes.reduce((sum, s) => sum + s.perHour, 0), forecast }
}

/** What the guard rails refuse: they are not warnings. */
function railProblems(plan: Plan, journeys: readonly Journey[], orders: readonly FleetOrder[], forecast: number, lengthS: number, { rails, spentToday }: Allowance): Problem[] {
  const found: Problem[] = []
  const machines = orders.reduce((sum, o) => sum + o.machines, 0)
  const users = peakOfPlan(planAtMost(plan, [...journeys]))
  const money = (n: number) => amount(n, rails.currency)
  const mostCost = Math.min(rails.budgetPerRun, plan.mostCost ?? Number.POSITIVE_INFINITY)
  const foreign = orders.find(o => (o.type.currency ?? 'EUR') !== rails.currency && o.type.pricePerHour > 0)
  if (machines > rails.mostMachines) found.push(inTheWay('rail-machines', `The plan takes ${machines} machines; ${rails.mostMachines} are the most allowed.`, 'Take larger types, or raise the guard rail on the Fleet screen.'))
  if (users > rails.mostUsers) found.push(inTheWay('rail-users', `The plan has ${users} users at its peak; ${rails.mostUsers} are the most allowed.`, 'Lower the levels, or raise the guard rail on the Fleet screen.'))
  if (lengthS > rails.longestRunMin * 60) found.push(inTheWay('rail-length', `The load lasts ${Math.ceil(lengthS / 60)} min; ${rails.longestRunMin} min are the most allowed.`, 'Shorten a hold, or raise the guard rail on the Fleet screen.'))
  if (forecast > mostCost) found.push(inTheWay('budget-run', `The run would cost ${money(forecast)}; ${money(mostCost)} is the most ${mostCost === plan.mostCost ? 'this plan allows itself' : 'a run may cost'}.`, 'Take cheaper types or fewer machines, shorten the run, or raise the budget.'))
  if (forecast > 0 && spentToday + forecast > rails.budgetPerDay) found.push(inTheWay('budget-day', `The run would cost ${money(forecast)}; ${money(Math.max(0, rails.budgetPerDay - spentToday))} are left of today’s ${money(rails.budgetPerDay)}.`, 'Release what is not needed, wait for tomorrow, or raise the budget on the Fleet screen.'))
  if (foreign) found.push(inTheWay('currency', `${foreign.location} is billed in ${foreign.type.currency}, the budget is in ${rails.currency}.`, 'Vornak does not convert currencies: use an account billed in that of the budget.', { location: foreign.location }))
  return found
}

/** The machines a plan takes, where they are known. */
export function fleetOf(plan: Plan, journeys: readonly Journey[], offers: Offers): FleetOrder[] {
  return ordersOf(planInUsers(plan, journeys), offers)
}

function ordersOf(plan: Plan, offers: Offers): FleetOrder[] {
  return plan.locations.flatMap((l): FleetOrder[] => {
    const offer = offerAt(l, offers)
    const type = offer?.types.find(t => t.name === l.machineType)
    if (!offer || !type) return []
    const machines = l.machines === 'auto' ? machinesNeeded(plan, l.code, type) : usersAt(plan, l.code) > 0 ? l.machines : 0
    if (machines === 0) return []
    const attached = attachedOf(l, offer)
    return [{
      location: l.code, type, machines,
      ...(l.interruptible ? { interruptible: true } : {}), ...(l.elsewhere?.length ? { elsewhere: l.elsewhere } : {}),
      ...(attached ? { attached, extrasPerHour: extrasOf(offer.otherBills ?? [], attached) } : {}),
    }]
  })
}

/** What is attached: as written, the provider's own defaults for the rest. */
function attachedOf({ attached = {} }: Location, { attachments }: RegionOffer): Attached | undefined {
  if (!attachments) return undefined
  const usual = Object.entries(attachments.properties).flatMap(([name, { default: value }]) => value === undefined ? [] : [[name, value] as const])
  return { ...Object.fromEntries(usual), ...attached }
}

function offerAt(location: Plan['locations'][number], offers: Offers): RegionOffer | undefined {
  return offers[location.provider]?.find(r => r.region === location.region)
}
