/** A worker's own signals, read once a second: is it the target that is slow, or this machine? */
import { monitorEventLoopDelay, type IntervalHistogram } from 'node:perf_hooks'
import type { Health } from '../../core/soundness/signals'
import type { HostFacts } from '../../protocol/messages'

/** Resolution of the event-loop delay monitor, ms; its readings include it. Costs 0.6 % of a thread. */
const RESOLUTION_MS = 10

export class HealthReader {
  private readonly loop: IntervalHistogram = monitorEventLoopDelay({ resolution: RESOLUTION_MS })
  private lags = new Float32Array(256)
  private lagCount = 0
  private cpu = process.cpuUsage()
  private at = performance.now()
  private openSockets = 0

  constructor(private readonly host: HostFacts) {
    this.loop.enable()
  }

  readonly lag = (ms: number): void => {
    if (this.lagCount === this.lags.length) {
      const grown = new Float32Array(this.lags.length * 2)
      grown.set(this.lags)
      this.lags = grown
    }
    this.lags[this.lagCount++] = ms
  }

  readonly sockets = { opened: () => { this.openSockets++ }, closed: () => { this.openSockets-- } }

  /** Reads the signals since the last reading. CPU and memory are of the whole process. */
  readonly read = (): Health => {
    const now = performance.now()
    const used = process.cpuUsage(this.cpu)
    const elapsedMs = Math.max(1, now - this.at)
    this.cpu = process.cpuUsage()
    this.at = now
    const loopDelayP99Ms = Math.max(0, this.loop.percentile(99) / 1e6 - RESOLUTION_MS)
    this.loop.reset()
    const sorted = this.lags.subarray(0, this.lagCount).sort()
    const scheduleLagP99Ms = this.lagCount > 0 ? sorted[Math.max(0, Math.ceil(this.lagCount * 0.99) - 1)]! : 0
    this.lagCount = 0
    return {
      cpuShare: (used.user + used.system) / 1000 / elapsedMs / this.host.cores,
      loopDelayP99Ms: Number.isFinite(loopDelayP99Ms) ? loopDelayP99Ms : 0,
      scheduleLagP99Ms,
      memoryShare: process.memoryUsage.rss() / this.host.memoryBytes,
      socketShare: this.openSockets / this.host.descriptors,
    }
  }

  stop(): void {
    this.loop.disable()
  }
}
