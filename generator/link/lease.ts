/** How long this generator may go on: its lease, and how long it may load without hearing anything. Counted on the monotonic clock. */

export class Lease {
  private endsAt: number
  private heardAt: number
  private readonly timer: NodeJS.Timeout

  /**
   * @param leaseMs time left on the machine
   * @param graceMs longest silence under load
   * @param onSilence called once per silence
   * @param onEnd called when the lease is over
   */
  constructor(leaseMs: number, private readonly graceMs: number, onSilence: (ms: number) => void, onEnd: () => void) {
    const now = performance.now()
    this.endsAt = now + leaseMs
    this.heardAt = now
    let silent = false
    this.timer = setInterval(() => {
      const at = performance.now()
      if (at >= this.endsAt) return onEnd()
      const quiet = at - this.heardAt > this.graceMs
      if (quiet && !silent) onSilence(at - this.heardAt)
      silent = quiet
    }, 250)
  }

  /** Something was heard from the controller. */
  heard(): void {
    this.heardAt = performance.now()
  }

  renew(leaseMs: number): void {
    this.endsAt = performance.now() + leaseMs
  }

  stop(): void {
    clearInterval(this.timer)
  }
}
