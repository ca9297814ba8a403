/** Checks and sizes a plan against what providers offer now, and against the guard rails. */
import { ownOf } from '../../core/values/own'
import type { PlanCheck } from '../../api/views'
import type { Journey } from '../../core/journey/journey'
import { attachedOf, type SizingAround } from '../../core/fleet/place'
import type { LocationSizing } from '../../core/fleet/sizing'
import { extrasOf, type RegionOffer } from '../../core/offers/machine-type'
import type { FleetOrder } from '../../core/fleet/order'
import type { Location, Plan } from '../../core/plan/document'
import { planAtMost, planInUsers } from '../../core/plan/expected'
import { peakOfPlan } from '../../core/plan/peak'
import { inTheWay, type Problem } from '../../core/checks/problem'
import type { PlanSurroundings } from '../../core/checks/plan-surroundings'
import { problemsOf } from '../../core/checks/problems'
import { runLengthMs } from '../../core/plan/length'
import { amount, type GuardRails } from '../machines/money'
import { locationOf } from '../../core/plan/in-plan'
import { present } from '../../core/values/present'

export type Offers = Record<string, RegionOffer[] | undefined>

/** What the house allows a plan, and what becomes of its runs: guard rails with what has been spent of them. */
export interface Allowance {
  rails: GuardRails
  spentToday: number
  /** Runs that take longer have their frames folded when they are over, hours; left out: none has. */
  foldHours?: number | undefined
  /** Whether reports can be mailed; left out: nobody has asked. */
  hasMailServer?: boolean
}

/** Time from the last boot to the start of the load: roll call, rehearsal, arming. Common practice, no source. */
const BEFORE_LOAD_S = 8

export interface CheckAround extends Pick<PlanSurroundings, 'target' | 'journeys' | 'feeds' | 'networks' | 'clients'> {
  capacities: Pick<SizingAround, 'capacities' | 'stale'>
}

/** What a plan is sized by: everything the solver needs, and nothing else. */
export function sizingAround(
  written: Plan,
  around: Pick<CheckAround, 'journeys' | 'capacities'>,
  offers: Offers,
): { plan: Plan, around: SizingAround } {
  const plan = planInUsers(written, around.journeys)
  const { gatherS, lengthS } = times(plan, offers)
  const used = around.journeys.filter(j => plan.groups.some(g => g.journeyId === j.id))
  return {
    plan,
    around: {
      journeys: used,
      offers: Object.fromEntries(Object.entries(offers).filter(([id]) => plan.locations.some(l => l.provider === id))),
      ...around.capacities,
      billedS: gatherS + lengthS + written.keepMachinesMin * 60,
    },
  }
}

/** @param sizing as {@link sizePlan} has it @returns everything the sheet shows beside the plan */
export function checkPlan(
  written: Plan,
  around: CheckAround,
  offers: Offers,
  now: number,
  sizing: LocationSizing[],
  allowance?: Allowance,
): PlanCheck {
  const plan = planInUsers(written, around.journeys)
  const orders = ordersOf(plan, offers, sizing)
  const { gatherS, lengthS } = times(plan, offers)
  const sizes = sizing.map((s) => {
    const { quota } = offerOf(locationOf(plan, s.code), offers)
    return { ...s, quotaMost: quota.most, quotaUsed: quota.used }
  })
  const forecast = sizing.reduce((sum, s) => sum + s.cost, 0)
  const problems = problemsOf(written, {
    ...around,
    offers,
    sizing,
    lengthMs: runLengthMs({ plan }),
    now: new Date(now).toISOString(),
  })
  const railed = allowance ? railProblems(written, around.journeys, orders, forecast, lengthS, allowance) : []
  return {
    problems: [...railed, ...problems, ...afterwards(written, lengthS, allowance)],
    sizes,
    gatherS,
    lengthS,
    perHour: sizes.reduce((sum, s) => sum + s.perHour, 0),
    forecast,
  }
}

function times(plan: Plan, offers: Offers): { gatherS: number, lengthS: number } {
  return {
    gatherS: Math.max(0, ...plan.locations.map(l => offerAt(l, offers)?.bootS ?? 0)) + BEFORE_LOAD_S,
    lengthS: Math.ceil(runLengthMs({ plan }) / 1000),
  }
}

/** What the guard rails refuse: they are not warnings. */
// eslint-disable-next-line max-lines-per-function -- a list, in the order in which it is told
function railProblems(
  plan: Plan,
  journeys: readonly Journey[],
  orders: readonly FleetOrder[],
  forecast: number,
  lengthS: number,
  { rails, spentToday }: Allowance,
): Problem[] {
  const found: Problem[] = []
  const machines = orders.reduce((sum, o) => sum + o.machines, 0)
  const users = peakOfPlan(planAtMost(plan, [...journeys]))
  const money = (n: number) => amount(n, rails.currency)
  const mostCost = Math.min(rails.budgetPerRun, plan.mostCost ?? Number.POSITIVE_INFINITY)
  const foreign = orders.find(o => (o.type.currency ?? 'EUR') !== rails.currency && o.type.pricePerHour > 0)
  if (machines > rails.mostMachines)
    found.push(
      inTheWay(
        'rail-machines',
        `The plan takes ${machines} machines; ${rails.mostMachines} are the most allowed.`,
        'Take larger types, or raise the guard rail on the Fleet screen.',
      ),
    )
  if (users > rails.mostUsers)
    found.push(
      inTheWay(
        'rail-users',
        `The plan has ${users} users at its peak; ${rails.mostUsers} are the most allowed.`,
        'Lower the levels, or raise the guard rail on the Fleet screen.',
      ),
    )
  if (lengthS > rails.longestRunMin * 60)
    found.push(
      inTheWay(
        'rail-length',
        `The load lasts ${Math.ceil(lengthS / 60)} min; ${rails.longestRunMin} min are the most allowed.`,
        'Shorten a hold, or raise the guard rail on the Fleet screen.',
      ),
    )
  if (forecast > mostCost)
    found.push(
      inTheWay(
        'budget-run',
        `The run would cost ${money(forecast)}; ${money(mostCost)} is the most ${mostCost === plan.mostCost ? 'this plan allows itself' : 'a run may cost'}.`,
        'Take cheaper types or fewer machines, shorten the run, or raise the budget.',
      ),
    )
  if (forecast > 0 && spentToday + forecast > rails.budgetPerDay)
    found.push(
      inTheWay(
        'budget-day',
        `The run would cost ${money(forecast)}; ${money(Math.max(0, rails.budgetPerDay - spentToday))} are left of today’s ${money(rails.budgetPerDay)}.`,
        'Release what is not needed, wait for tomorrow, or raise the budget on the Fleet screen.',
      ),
    )
  if (foreign)
    found.push(
      inTheWay(
        'currency',
        `${foreign.location} is billed in ${foreign.type.currency}, the budget is in ${rails.currency}.`,
        'Vornak does not convert currencies: use an account billed in that of the budget.',
        { location: foreign.location },
      ),
    )
  return found
}

/** Of a location that could be sized: it has one. */
function offerOf(location: Location, offers: Offers): RegionOffer {
  return present(offerAt(location, offers), `the offer of ${location.code}, which was sized by it`)
}

/** The machines a plan takes, where they are known. */
export function ordersOf(plan: Plan, offers: Offers, sizing: readonly LocationSizing[]): FleetOrder[] {
  return sizing.flatMap(({ code, machines }): FleetOrder[] => {
    const l = locationOf(plan, code)
    const offer = offerOf(l, offers)
    const attached = attachedOf(l, offer)
    return machines.map(({ type, count, carries, interruptible, shift }) => ({
      location: code,
      type,
      machines: count,
      carries,
      ...(interruptible ? { interruptible: true } : {}),
      ...(shift ? { shift } : {}),
      ...(l.elsewhere?.length ? { elsewhere: l.elsewhere } : {}),
      ...(attached ? { attached, extrasPerHour: extrasOf(offer.otherBills ?? [], attached) } : {}),
    }))
  })
}

function offerAt(location: Plan['locations'][number], offers: Offers): RegionOffer | undefined {
  return ownOf(offers, location.provider)?.find(r => r.region === location.region)
}

/** What becomes of the run when it is over: said beforehand, for it cannot be undone, or would be missed too late. */
function afterwards(plan: Plan, lengthS: number, { foldHours, hasMailServer }: Partial<Allowance> = {}): Problem[] {
  const found: Problem[] = []
  if (foldHours !== undefined && lengthS > foldHours * 3600)
    found.push({
      code: 'folded-after',
      weight: 'toKnow',
      sentence: `It takes longer than ${foldHours} h: when it is over, what each generator sent is folded into the sums of all, and machines are told apart in stretches of 1,000 s.`,
      remedy: 'Keep the run for good, or set another length under What is kept.',
    })
  const mailed = plan.mailTo?.length ?? 0
  if (mailed > 0 && hasMailServer === false)
    found.push({
      code: 'no-mail-server',
      weight: 'toKnow',
      sentence: `Its report goes to ${mailed === 1 ? 'one address' : `${mailed} addresses`}, and no mail server is known: nothing would be sent.`,
      remedy: 'A keeper gives one under People, Mail and hooks.',
    })
  return found
}
