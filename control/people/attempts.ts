/** How often somebody may try to sign in: few wrong passwords for a name, somewhat more from an address. */
import { RateLimiterMemory, type RateLimiterRes } from 'rate-limiter-flexible'
import { ControlError } from '../errors'

const WINDOW_S = 15 * 60
const FOR_A_NAME = 8
const FROM_AN_ADDRESS = 40

export class Attempts {
  private readonly byName = new RateLimiterMemory({ points: FOR_A_NAME, duration: WINDOW_S })
  private readonly byAddress = new RateLimiterMemory({ points: FROM_AN_ADDRESS, duration: WINDOW_S })

  /** Counts before the password is looked at, so that many at once are counted too. @throws ControlError */
  async count(name: string, address: string): Promise<void> {
    try {
      await this.byAddress.consume(address)
      await this.byName.consume(name.toLowerCase())
    }
    catch (refused) {
      // The package rejects with its state, which is no error.
      const minutes = Math.ceil((refused as RateLimiterRes).msBeforeNext / 60_000)
      throw new ControlError(
        'too-often',
        429,
        'There were too many wrong passwords.',
        `Try again in ${minutes} ${minutes === 1 ? 'minute' : 'minutes'}.`,
      )
    }
  }

  /** The password was right: what was counted for it does not stand against anybody. */
  async right(name: string, address: string): Promise<void> {
    await this.byName.delete(name.toLowerCase())
    await this.byAddress.reward(address)
  }
}
