/**
 * How long this generator may go on: its lease, and how long it may load without hearing anything. Counted on the
 * monotonic clock.
 */

export class Lease {
  private endsAt: number
  private heardAt: number
  private readonly timer: NodeJS.Timeout

  /**
   * @param leaseMs time left on the machine
   * @param graceMs longest silence under load
   * @param heardAt when it was last surely heard by the controller, monotonic, ms
   * @param onSilence called once per silence
   * @param onEnd called when the lease is over
   */
  constructor(
    leaseMs: number,
    private readonly graceMs: number,
    heardAt: number,
    onSilence: (ms: number) => void,
    onEnd: () => void,
  ) {
    const now = performance.now()
    this.endsAt = now + leaseMs
    this.heardAt = heardAt
    let silent = false
    this.timer = setInterval(() => {
      const at = performance.now()
      if (at >= this.endsAt) return onEnd()
      const quiet = at - this.heardAt > this.graceMs
      if (quiet && !silent) onSilence(at - this.heardAt)
      silent = quiet
    }, 250)
  }

  /**
   * The controller says that it has heard what was said at this moment, monotonic, ms: it counts this generator's
   * silence from then.
   */
  heard(at: number): void {
    this.heardAt = Math.max(this.heardAt, Math.min(at, performance.now()))
  }

  renew(leaseMs: number): void {
    this.endsAt = performance.now() + leaseMs
  }

  stop(): void {
    clearInterval(this.timer)
  }
}
