/**
 * The ledger: what each generator says it sent against what was merged. Always balanced, or the difference is
 * explained.
 *
 * A generator's frames carry a sequence number and cumulative counts, so frames that never came are known by number,
 * and what was in them by the difference of the cumulative counts around them.
 */
import { keysIn } from '../values/written-out'

/** Cumulative counts a worker claims in a frame, since it began. */
export interface Claims {
  started: number
  right: number
  failed: number
  cut: number
  neverSent: number
  unclear: number
}

export const NO_CLAIMS: Claims = { started: 0, right: 0, failed: 0, cut: 0, neverSent: 0, unclear: 0 }

/** Head of a frame as the ledger needs it. */
export interface FrameHead {
  incarnation: number
  worker: number
  /** From 1. */
  sequence: number
  /** Run second the frame is about. */
  second: number
  /** Last frame of this worker: nothing is in flight any more. */
  last: boolean
  /** Cumulative counts at the end of the frame. */
  claims: Claims
  /** Users present at the end of the frame. */
  users: number
}

/** How a generator's account stands. */
export interface Account {
  generator: string
  claimed: Claims
  /** Counts of the frames that were merged. */
  merged: Claims
  inFlight: number
  /** `unreadable`: arrived, but could not be read; left out: none. What came again whole is among those received. */
  frames: { received: number, repeated: number, absent: number, unreadable?: number }
  /** Started as claimed but in frames that never came. */
  missing: number
  /** The generator went without a last word. */
  open?: {
    /** Nothing is known after this run second. */
    afterSecond: number
    /** At most this many exchanges can have been started that nobody knows of. */
    atMostUnknown: number
  }
  /** Counts that contradict each other, in words; empty when the account balances. */
  contradictions: string[]
}

/** Reads one generator's frames, in any order, repeated or not, and closes its account. */
export class AccountBook {
  private readonly workers = new Map<string, WorkerPages>()
  private repeated = 0

  /** @param saved what an earlier one had read, from {@link saved} */
  constructor(
    readonly generator: string,
    saved?: SavedBook,
  ) {
    if (!saved) return
    this.repeated = saved.repeated
    for (const [key, pages] of saved.workers) this.workers.set(key, new WorkerPages(pages))
  }

  /** What has been read so far, to be written down. */
  saved(): SavedBook {
    return { repeated: this.repeated, workers: [...this.workers].map(([key, pages]) => [key, pages.saved()]) }
  }

  /** Whether this frame was here before. */
  has(head: Pick<FrameHead, 'incarnation' | 'worker' | 'sequence'>): boolean {
    return this.workers.get(`${head.incarnation}/${head.worker}`)?.has(head.sequence) ?? false
  }

  /** All frames of this worker up to and including this number have come; 0: not even the first. */
  throughout({ incarnation, worker }: Pick<FrameHead, 'incarnation' | 'worker'>): number {
    return this.workers.get(`${incarnation}/${worker}`)?.throughout ?? 0
  }

  /** Notes that a frame came again. */
  repeat(): void {
    this.repeated++
  }

  /** @returns false when this frame was here before: only its coming again is noted then */
  take(head: FrameHead, inFrame: Claims): boolean {
    if (this.has(head)) {
      this.repeat()
      return false
    }
    const key = `${head.incarnation}/${head.worker}`
    let worker = this.workers.get(key)
    if (!worker) this.workers.set(key, (worker = new WorkerPages()))
    worker.take(head, inFrame)
    return true
  }

  /** Highest run second for which a frame of every known worker has come; −1 before the first. */
  get coveredSecond(): number {
    let covered = Number.POSITIVE_INFINITY
    for (const worker of this.workers.values())
      covered = Math.min(covered, worker.last?.last ? Number.POSITIVE_INFINITY : (worker.last?.second ?? -1))
    return this.workers.size === 0 ? -1 : covered
  }

  /**
   * Users of those workers whose newest frame lies before a second and is not their last: whether they are there is not
   * known.
   *
   * @param newest newest second that was heard of anybody @param behindS one that is no further behind is only on its
   * way
   */
  unknownAt(second: number, newest: number, behindS: number): number {
    let users = 0
    for (const { last } of this.workers.values())
      if (last && !last.last && last.second < second && newest - last.second >= behindS) users += last.users
    return users
  }

  /** All workers have said their last word. */
  get finished(): boolean {
    return this.workers.size > 0 && [...this.workers.values()].every(w => w.last?.last && w.absent() === 0)
  }

  /**
   * @param goneAtSecond run second at which the generator was known to be gone, when it left without a last word
   */
  close(goneAtSecond?: number): Account {
    const workers = [...this.workers.values()]
    const claimed = total(workers.map(w => w.last?.claims ?? NO_CLAIMS))
    const merged = total(workers.map(w => w.merged))
    const absent = workers.reduce((sum, w) => sum + w.absent(), 0)
    const inFlight = claimed.started - claimed.right - claimed.failed - claimed.cut
    const contradictions: string[] = []
    if (inFlight < 0)
      contradictions.push(`more exchanges ended (${claimed.started - inFlight}) than started (${claimed.started})`)
    if (workers.some(w => w.wentBackwards)) contradictions.push('a cumulative count went down')
    if (this.finished && inFlight !== 0) contradictions.push(`${inFlight} exchanges in flight after the last frame`)
    for (const key of ['started', 'right', 'failed', 'cut'] as const) {
      if (merged[key] > claimed[key] || (absent === 0 && merged[key] !== claimed[key]))
        contradictions.push(`${key}: ${merged[key]} merged, ${claimed[key]} claimed`)
    }
    const account: Account = {
      generator: this.generator,
      claimed,
      merged,
      inFlight,
      frames: { received: workers.reduce((sum, w) => sum + w.received, 0), repeated: this.repeated, absent },
      missing: claimed.started - merged.started,
      contradictions,
    }
    if (goneAtSecond !== undefined && !this.finished) {
      const afterSecond = Math.max(-1, ...workers.map(w => w.last?.second ?? -1))
      // Users alive when last heard × fastest start rate per user seen × seconds nobody knows of, plus whatever was in
      // flight.
      const users = Math.max(0, ...workers.map(w => w.mostUsers)) * Math.max(1, workers.length)
      const fastest = Math.max(1, ...workers.map(w => w.fastestPerUser))
      account.open = {
        afterSecond,
        atMostUnknown: Math.ceil(users * fastest * Math.max(1, goneAtSecond - afterSecond)),
      }
    }
    return account
  }
}

/** What one worker's frames said so far. */
interface SavedPages {
  merged: Claims
  received: number
  /** Frame with the highest sequence number. */
  last?: FrameHead
  wentBackwards: boolean
  mostUsers: number
  /** Most exchanges started by one user in a second. */
  fastestPerUser: number
  /** All numbers up to this came. */
  throughout: number
  /** Sequence numbers above it that came. */
  beyond: number[]
}

/** An account book as it is written down: JSON. */
export interface SavedBook {
  repeated: number
  workers: [key: string, pages: SavedPages][]
}

/** One worker's frames: which sequence numbers came, and what they held. */
class WorkerPages {
  merged: Claims = { ...NO_CLAIMS }
  received = 0
  last: FrameHead | undefined
  wentBackwards = false
  mostUsers = 0
  fastestPerUser = 0
  throughout = 0
  private readonly beyond: Set<number>

  constructor(saved?: SavedPages) {
    const { beyond = [], ...pages } = saved ?? {}
    Object.assign(this, pages)
    this.beyond = new Set(beyond)
  }

  saved(): SavedPages {
    const { merged, received, last, wentBackwards, mostUsers, fastestPerUser, throughout, beyond } = this
    return {
      merged,
      received,
      ...(last ? { last: headOf(last) } : {}),
      wentBackwards,
      mostUsers,
      fastestPerUser,
      throughout,
      beyond: [...beyond],
    }
  }

  has(sequence: number): boolean {
    return sequence <= this.throughout || this.beyond.has(sequence)
  }

  take(head: FrameHead, inFrame: Claims): void {
    this.beyond.add(head.sequence)
    while (this.beyond.delete(this.throughout + 1)) this.throughout++
    this.received++
    this.merged = total([this.merged, inFrame])
    this.mostUsers = Math.max(this.mostUsers, head.users)
    if (head.users > 0) this.fastestPerUser = Math.max(this.fastestPerUser, inFrame.started / head.users)
    if (!this.last || head.sequence > this.last.sequence) {
      if (this.last && head.claims.started < this.last.claims.started) this.wentBackwards = true
      this.last = head
    }
    else if (head.claims.started > this.last.claims.started) this.wentBackwards = true
  }

  absent(): number {
    return (this.last?.sequence ?? 0) - this.received
  }
}

/** Nothing else of a frame. */
function headOf({ incarnation, worker, sequence, second, last, claims, users }: FrameHead): FrameHead {
  return { incarnation, worker, sequence, second, last, claims, users }
}

/** The account of the whole run. */
export interface Ledger {
  accounts: Account[]
  claimed: Claims
  merged: Claims
  missing: number
  /** Most exchanges that may have been started unknown to anybody. */
  atMostUnknown: number
  /** Exchanges the target can have received, by what was merged: started without those never sent. */
  sent: number
  balanced: boolean
}

export function ledgerOf(accounts: Account[]): Ledger {
  const merged = total(accounts.map(a => a.merged))
  return {
    accounts,
    claimed: total(accounts.map(a => a.claimed)),
    merged,
    missing: accounts.reduce((sum, a) => sum + a.missing, 0),
    atMostUnknown: accounts.reduce((sum, a) => sum + (a.open?.atMostUnknown ?? 0), 0),
    sent: merged.started - merged.neverSent,
    balanced: accounts.every(a => a.contradictions.length === 0),
  }
}

function total(all: readonly Claims[]): Claims {
  const sum = { ...NO_CLAIMS }
  for (const c of all) for (const key of keysIn(sum)) sum[key] += c[key]
  return sum
}
