/**
 * Keeps calls within a provider's rate limit: a number a second, a few at once after a pause. Waiting calls keep their
 * order.
 */
import type { Clock } from '../../clock'

export interface CallLimit {
  perSecond: number
  atOnce: number
}

export class CallRate {
  private tokens: number
  private filledAt: number
  private notBefore = 0
  private readonly waiting: (() => void)[] = []
  private timer = false

  constructor(
    private readonly limit: CallLimit,
    private readonly clock: Pick<Clock, 'now' | 'after'>,
  ) {
    this.tokens = limit.atOnce
    this.filledAt = clock.now()
  }

  /** Resolves when the next call may go. */
  turn(): Promise<void> {
    return new Promise((resolve) => {
      this.waiting.push(resolve)
      this.serve()
    })
  }

  /** The provider said that it is too much: nothing goes before this long, ms. */
  pause(ms: number): void {
    this.tokens = 0
    this.notBefore = Math.max(this.notBefore, this.clock.now() + ms)
  }

  private serve(): void {
    const now = this.clock.now()
    this.tokens = Math.min(this.limit.atOnce, this.tokens + ((now - this.filledAt) / 1000) * this.limit.perSecond)
    this.filledAt = now
    while (this.waiting.length > 0 && this.tokens >= 1 && now >= this.notBefore) {
      this.tokens--
      this.waiting.shift()?.()
    }
    if (this.waiting.length === 0 || this.timer) return
    this.timer = true
    this.clock.after(Math.max(5, this.notBefore - now, ((1 - this.tokens) / this.limit.perSecond) * 1000), () => {
      this.timer = false
      this.serve()
    })
  }
}
