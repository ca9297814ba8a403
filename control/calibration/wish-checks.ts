/**
 * Checks of what is wished of a calibration, before a machine is asked for: target, journeys, place, money, and a try
 * of each journey.
 */
import { ownOf } from '../../core/values/own'
import type { ExchangeRecord } from '../../core/journey/exchange-record'
import type { Journey } from '../../core/journey/journey'
import type { Target } from '../../core/journey/target'
import { ControlError, notFound } from '../errors'
import { amount, type GuardRails } from '../machines/money'
import type { Offers } from '../library/check-plan'
import type { Library } from '../library/library'
import type { Trials } from '../library/trial'
import type { CalibrationWish } from '../../core/capacity/batch'

export interface WishChecksOptions {
  library: Library
  trials: Trials
  /** @param fresh asked of the providers now */
  offers: (fresh?: boolean) => Promise<Offers>
  rails: () => { rails: GuardRails, spentToday: number }
}

/** Each throws a ControlError that says what is wrong and what to do. */
export class WishChecks {
  constructor(private readonly options: WishChecksOptions) {}

  targetOf(wish: CalibrationWish): Target {
    const target = this.options.library.target(wish.targetId)
    if (!target) throw notFound(`target ${wish.targetId}`)
    this.options.library.secretsOf(target)
    return target
  }

  journeysOf(wish: CalibrationWish): Journey[] {
    const { library } = this.options
    const ids = wish.verify
      ? (library.plan(wish.verify.planId)?.plan.groups.map(g => g.journeyId) ?? [])
      : wish.journeys
    const journeys = [...new Set(ids)].map(id => library.journey(id).journey)
    const command = journeys.find(j => j.kind === 'command')
    if (command)
      throw new ControlError(
        'command',
        409,
        `${command.name} runs a program of its own: its signals are not the generator’s.`,
        'Set its capacity by hand.',
      )
    return journeys
  }

  async placeOf(wish: CalibrationWish) {
    const offers = await this.options.offers(true)
    const offer = ownOf(offers, wish.provider)?.find(o => o.region === wish.region)
    if (!offer)
      throw new ControlError(
        'unknown-region',
        409,
        `${wish.provider} does not answer, or has no region ${wish.region}.`,
        'Start the provider, or choose another region.',
      )
    const types = wish.types.map((name) => {
      const type = offer.types.find(t => t.name === name)
      if (!type)
        throw new ControlError(
          'unknown-type',
          409,
          `${wish.region} has no machine type ${name}.`,
          `Choose one of ${offer.types.map(t => t.name).join(', ')}.`,
        )
      if (offer.noStock?.includes(name))
        throw new ControlError(
          'no-stock',
          409,
          `${wish.region} is out of ${name} at the moment.`,
          'Choose another region or type, or wait.',
        )
      return type
    })
    return { offer, types }
  }

  /** @param cost of all its machines */
  checkMoney(wish: CalibrationWish, cost: number): void {
    const { rails, spentToday } = this.options.rails()
    const left = Math.min(rails.budgetPerRun, rails.budgetPerDay - spentToday)
    if (cost > left)
      throw new ControlError(
        'budget',
        409,
        `The calibration would cost ${amount(cost, rails.currency)}; ${amount(Math.max(0, left), rails.currency)} may be spent.`,
        'Choose fewer items or cheaper types, or raise the budget on the Fleet screen.',
      )
    if (wish.machines > rails.mostMachines)
      throw new ControlError(
        'rail-machines',
        409,
        `${wish.machines} machines are wanted; ${rails.mostMachines} are the most allowed.`,
        'Take fewer.',
      )
  }

  /** One pass of each journey: what is calibrated must work, and the sink answers as it was answered. */
  async tryAll(journeys: readonly Journey[], target: Target): Promise<ExchangeRecord[]> {
    const records: ExchangeRecord[] = []
    for (const journey of journeys) {
      const tried = await this.options.trials.here(journey, target)
      const failed = tried.records.find(r => r.failure !== undefined)
      if (tried.problem || failed)
        throw new ControlError(
          'try-failed',
          409,
          `${journey.name} fails its try: ${failed ? `${failed.step}: ${failed.problem}` : tried.problem}.`,
          'Open the journey, try it, fix what fails; then calibrate.',
        )
      records.push(...tried.records)
    }
    return records
  }
}
