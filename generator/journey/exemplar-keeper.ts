/**
 * Keeps whole exchanges by rule: failures up to a number per kind and second, the slowest of each step in every stretch
 * of ten seconds, and every exchange of one pass in n. Bounded in bytes; what the bound took is counted.
 */
import type { ExchangeRecord, KeptFor } from '../../core/journey/exchange-record'
import type { FailureKind } from '../../core/journey/failure-kinds'
import type { ExemplarRule } from '../../core/plan/document'

/** Bodies in exemplars are cut to this, bytes. */
export const EXEMPLAR_BODY_BYTES = 32 * 1024
/** Stretch in which each step keeps its slowest, ms. */
const SLOWEST_OVER_MS = 10_000

export class ExemplarKeeper {
  /** Exemplars the bound took. */
  dropped = 0
  private passes = 0
  private leftBytes: number
  private second = -1
  private readonly failuresThisSecond = new Map<FailureKind, number>()
  private stretchEndsAt: number
  private readonly slowest = new Map<number, { ms: number, record: ExchangeRecord }>()

  constructor(
    private readonly rule: ExemplarRule,
    private readonly startedAt: number,
    private readonly keep: (record: ExchangeRecord) => void,
  ) {
    this.leftBytes = rule.mostMb * 1024 * 1024
    this.stretchEndsAt = startedAt + SLOWEST_OVER_MS
  }

  /** Whether all of the pass that begins now is kept. */
  keepsPass(): boolean {
    return this.rule.oneInPasses > 0 && this.passes++ % this.rule.oneInPasses === 0
  }

  /** Whether, and for what, an exchange is kept. Cheap: asked of every exchange. */
  wants(
    series: number,
    now: number,
    ms: number,
    failure: FailureKind | undefined,
    passKept: boolean,
  ): KeptFor | undefined {
    if (now >= this.stretchEndsAt) this.endStretch(now)
    if (passKept) return 'pass'
    if (failure !== undefined) {
      const second = Math.floor((now - this.startedAt) / 1000)
      if (second !== this.second) {
        this.second = second
        this.failuresThisSecond.clear()
      }
      const before = this.failuresThisSecond.get(failure) ?? 0
      if (before >= this.rule.failuresPerSecond) return undefined
      this.failuresThisSecond.set(failure, before + 1)
      return 'failure'
    }
    if (this.rule.slowest && ms > (this.slowest.get(series)?.ms ?? 0)) return 'slowest'
    return undefined
  }

  take(series: number, ms: number, record: ExchangeRecord): void {
    if (record.keptFor === 'slowest') this.slowest.set(series, { ms, record })
    else this.put(record)
  }

  /** Gives out what waits for the end of its stretch. */
  finish(): void {
    for (const { record } of this.slowest.values()) this.put(record)
    this.slowest.clear()
  }

  private endStretch(now: number): void {
    this.finish()
    this.stretchEndsAt += Math.ceil((now - this.stretchEndsAt + 1) / SLOWEST_OVER_MS) * SLOWEST_OVER_MS
  }

  private put(record: ExchangeRecord): void {
    const bytes = record.request.body.length + (record.answer?.body.length ?? 0) + 1000
    if (bytes > this.leftBytes) {
      this.dropped++
      return
    }
    this.leftBytes -= bytes
    this.keep(record)
  }
}
