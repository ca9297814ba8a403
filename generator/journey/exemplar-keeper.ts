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

/** Lets a number of each kind through a second. */
class FewPerSecond {
  private second = -1
  private readonly taken = new Map<FailureKind, number>()

  constructor(private readonly most: number) {}

  takes(kind: FailureKind, second: number): boolean {
    if (second !== this.second) this.taken.clear()
    this.second = second
    const before = this.taken.get(kind) ?? 0
    if (before >= this.most) return false
    this.taken.set(kind, before + 1)
    return true
  }
}

/** What is kept of a run takes no more than this for each hour of it, of all generators together, MB. */
const MOST_MB_AN_HOUR = 200
const HOUR_MS = 3_600_000

/** The rule with its bound, where that of all generators is the tighter one. @param among workers of all generators */
export function boundedRule(rule: ExemplarRule, runMs: number, among: number): ExemplarRule {
  const ofAll = (MOST_MB_AN_HOUR * Math.max(1, runMs / HOUR_MS)) / among
  return { ...rule, mostMb: Math.min(rule.mostMb, ofAll) }
}

export class ExemplarKeeper {
  /** Exemplars the bound took. */
  dropped = 0
  private passes = 0
  private leftBytes: number
  private readonly failures: FewPerSecond
  private stretchEndsAt: number
  private readonly slowest = new Map<number, { ms: number, record: ExchangeRecord }>()
  private readonly failedPasses: FewPerSecond
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
    this.failures = new FewPerSecond(rule.failuresPerSecond)
    this.failedPasses = new FewPerSecond(rule.failuresPerSecond)
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
    if (failure !== undefined) return this.failures.takes(failure, this.secondOf(now)) ? 'failure' : undefined
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
    if (failure !== undefined) return this.failedPasses.takes(failure, this.secondOf(now)) ? 'failure' : undefined
    if (cut || !this.rule.slowest) return undefined
    return busyMs > (this.slowestPasses.get(journeyId)?.busyMs ?? 0) ? 'slowest' : undefined
  }

  takePass(record: PassRecord): void {
    if (record.keptFor === 'slowest') this.slowestPasses.set(record.journeyId, record)
    else this.putPass(record)
  }

  private secondOf(now: number): number {
    return Math.floor((now - this.startedAt) / 1000)
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
