/** What all providers offer now, remembered for a moment: plans are checked at every keystroke. */
import type { Clock } from '../clock'
import { ProviderSilent, type Provider } from '../fleet/providers/contract'
import type { Offers } from './check-plan'

/** Offers are remembered this long, ms. */
const OFFERS_MS = 2000

export class OfferBook {
  private remembered: { at: number, offers: Offers } | undefined

  constructor(private readonly providers: ReadonlyMap<string, Provider>, private readonly clock: Clock) {}

  /** As they were when last asked; undefined before. */
  get last(): Offers | undefined { return this.remembered?.offers }

  /** @param anew asks whatever is remembered */
  async offers(anew = false): Promise<Offers> {
    const now = this.clock.now()
    if (!anew && this.remembered && now - this.remembered.at < OFFERS_MS) return this.remembered.offers
    const offers: Offers = {}
    await Promise.all([...this.providers.values()].map(async (p) => {
      try { offers[p.id] = await p.offers() }
      catch (error) {
        if (!(error instanceof ProviderSilent)) throw error
        offers[p.id] = undefined
      }
    }))
    this.remembered = { at: now, offers }
    return offers
  }
}
