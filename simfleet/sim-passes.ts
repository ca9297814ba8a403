/**
 * Passes a simulated generator keeps: one in a number, and the first of those that fail; told in batches, as real ones
 * are.
 */
import type { PassExchange, PassRecord } from '../core/journey/pass-record'

/** Kept: one pass in this many. */
const ONE_IN = 25
/** Passes with a failure that are kept, at most. */
const MOST_FAILED = 200
/** Passes in a batch. */
const MOST_IN_BATCH = 100

type Walker = Pick<PassRecord, 'group' | 'journeyId' | 'network' | 'user'>

export class SimPasses {
  private begun = 0
  private failed = 0
  private gathered: PassRecord[] = []

  /** @param tell takes a batch */
  constructor(private readonly tell: (passes: PassRecord[]) => void) {}

  /** What one user does, pass after pass. */
  walk(who: Walker) {
    let isChosen = false
    let pass = 0
    let exchanges: PassExchange[] = []
    /** @param cut it did not come to its end @param endedAtMs from the start of the run */
    const end = (endedAtMs: number, cut: boolean) => {
      if (exchanges.length > 0) this.keep(isChosen, { ...who, pass, exchanges, endedAtMs, cut })
      exchanges = []
    }
    return {
      end,
      /** Sets out on the next pass; the one before is over. */
      begin: (nowMs: number) => {
        end(nowMs, false)
        isChosen = this.begun++ % ONE_IN === 0
        pass++
      },
      add: (exchange: PassExchange) => void exchanges.push(exchange),
    }
  }

  private keep(isChosen: boolean, of: Omit<PassRecord, 'keptFor' | 'beganAtMs' | 'busyMs' | 'failure'>): void {
    const { exchanges } = of
    const failure = exchanges.find(e => e.failure)?.failure
    if (!isChosen && (failure === undefined || ++this.failed > MOST_FAILED)) return
    this.gathered.push({
      ...of,
      keptFor: isChosen ? 'pass' : 'failure',
      ...(failure ? { failure } : {}),
      beganAtMs: exchanges[0]!.beganAtMs,
      busyMs: exchanges.reduce((ms, e) => ms + e.endedAtMs - e.beganAtMs, 0),
    })
    if (this.gathered.length >= MOST_IN_BATCH) this.send()
  }

  send(): void {
    if (this.gathered.length > 0) this.tell(this.gathered)
    this.gathered = []
  }
}
