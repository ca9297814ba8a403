/**
 * Keeps whole exchanges and whole passes by rule: failures up to a number per kind and second, the slowest of each step
 * (of passes: of each journey) in every stretch of ten seconds, and one pass in n with every exchange. Of a pass with a
 * failure that was kept, every further exchange is kept too. Bounded in bytes; what the bound took is counted.
 */
import type { ExchangeRecord, KeptFor } from '../../core/journey/exchange-record'
import type { FailureKind } from '../../core/journey/failure-kinds'
import type { PassKeptFor, PassRecord } from '../../core/journey/pass-record'
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
  private passSecond = -1
  private readonly failedPassesThisSecond = new Map<FailureKind, number>()
  /** By journey. */
  private readonly slowestPasses = new Map<string, PassRecord>()

  constructor(
    private readonly rule: ExemplarRule,
    private readonly startedAt: number,
    private readonly keep: (record: ExchangeRecord) => void,
    private readonly keepPass: (record: PassRecord) => void = () => undefined,
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

  /**
   * Whether, and for what, a pass is kept whole. Cheap: asked of every pass.
   *
   * @param now its end @param isKept it was to be kept whatever came of it @param cut it did not come to its end
   */
  wantsPass(
    journeyId: string,
    now: number,
    busyMs: number,
    failure: FailureKind | undefined,
    isKept: boolean,
    cut: boolean,
  ): PassKeptFor | undefined {
    if (now >= this.stretchEndsAt) this.endStretch(now)
    if (isKept) return 'pass'
    if (failure !== undefined) {
      const second = Math.floor((now - this.startedAt) / 1000)
      if (second !== this.passSecond) {
        this.passSecond = second
        this.failedPassesThisSecond.clear()
      }
      const before = this.failedPassesThisSecond.get(failure) ?? 0
      if (before >= this.rule.failuresPerSecond) return undefined
      this.failedPassesThisSecond.set(failure, before + 1)
      return 'failure'
    }
    if (cut || !this.rule.slowest) return undefined
    return busyMs > (this.slowestPasses.get(journeyId)?.busyMs ?? 0) ? 'slowest' : undefined
  }

  takePass(record: PassRecord): void {
    if (record.keptFor === 'slowest') this.slowestPasses.set(record.journeyId, record)
    else this.putPass(record)
  }

  /** Gives out what waits for the end of its stretch. */
  finish(): void {
    for (const { record } of this.slowest.values()) this.put(record)
    this.slowest.clear()
    for (const record of this.slowestPasses.values()) this.putPass(record)
    this.slowestPasses.clear()
  }

  private endStretch(now: number): void {
    this.finish()
    this.stretchEndsAt += Math.ceil((now - this.stretchEndsAt + 1) / SLOWEST_OVER_MS) * SLOWEST_OVER_MS
  }

  private put(record: ExchangeRecord): void {
    if (this.hasRoom(record.request.body.length + (record.answer?.body.length ?? 0) + 1000)) this.keep(record)
  }

  private putPass(record: PassRecord): void {
    if (this.hasRoom(200 + 200 * record.exchanges.length)) this.keepPass(record)
  }

  /** What has none is counted. */
  private hasRoom(bytes: number): boolean {
    if (bytes > this.leftBytes) {
      this.dropped++
      return false
    }
    this.leftBytes -= bytes
    return true
  }
}
