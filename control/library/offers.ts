/** What all providers offer now, remembered for a moment: plans are checked at every keystroke. */
import type { Clock } from '../clock'
import { ProviderSilent, type Provider } from '../machines/providers/contract'
import type { RegionOffer } from '../../core/offers/machine-type'
import type { Machine } from '../store/machines'
import type { Offers } from './check-plan'

/** Offers are remembered this long, ms. */
const OFFERS_MS = 2000

export class OfferBook {
  private remembered: { at: number, offers: Offers } | undefined

  /**
   * @param waiting machines that are kept warm and work for no run
   * @param seenBootMs how long a provider's machines were seen to take until they enrolled; undefined: none was seen
   */
  constructor(
    private readonly providers: ReadonlyMap<string, Provider>,
    private readonly clock: Clock,
    private readonly waiting: () => readonly Pick<Machine, 'provider' | 'region' | 'type' | 'state'>[],
    private readonly seenBootMs: (provider: string) => number | undefined,
  ) {}

  /** As they were when last asked; undefined before. */
  get last(): Offers | undefined {
    return this.remembered?.offers
  }

  /** @param anew asks whatever is remembered */
  async offers(anew = false): Promise<Offers> {
    const now = this.clock.now()
    if (!anew && this.remembered && now - this.remembered.at < OFFERS_MS) return this.remembered.offers
    // In the order of the providers, though another may answer first.
    const offers: Offers = Object.fromEntries([...this.providers.keys()].map(id => [id, undefined]))
    await Promise.all(
      [...this.providers.values()].map(async (p) => {
        try {
          offers[p.id] = (await p.offers()).map(o => this.withWaiting(p.id, this.withBoot(p.id, o)))
        }
        catch (error) {
          if (!(error instanceof ProviderSilent)) throw error
          offers[p.id] = undefined
        }
      }),
    )
    this.remembered = { at: now, offers }
    return offers
  }

  /** What a provider states is believed until its machines were seen to take longer. */
  private withBoot(provider: string, offer: RegionOffer): RegionOffer {
    const seenS = Math.ceil((this.seenBootMs(provider) ?? 0) / 1000)
    return !offer.selfEnrolled && seenS > offer.bootS ? { ...offer, bootS: seenS } : offer
  }

  private withWaiting(provider: string, offer: RegionOffer): RegionOffer {
    if (offer.selfEnrolled) return offer
    const waiting = new Map<string, number>()
    for (const m of this.waiting())
      if (m.provider === provider && m.region === offer.region && ['enrolled', 'ready'].includes(m.state))
        waiting.set(m.type, (waiting.get(m.type) ?? 0) + 1)
    return waiting.size > 0 ? { ...offer, waiting: Object.fromEntries(waiting) } : offer
  }
}
