/**
 * What programs elsewhere tell of a run while they measure: lines are read, filed under seconds, and all cut into
 * frames with the next flush, also of a second that goes on. A batch that comes again, because its answer was lost, is
 * not counted again.
 */
import { asLongAs, ClaimedSeries, claimOf, LONGEST_CLAIMED_S } from '../../core/elsewhere/claimed-document'
import type { TakenLines } from '../../core/elsewhere/results'
import { failureOf, MOST_FAULTS, type ClaimedSample } from '../../core/elsewhere/sample'
import { samplesIn, type WrittenSample } from '../../core/elsewhere/sample-line'
import { recordOf } from '../../core/elsewhere/sample-record'
import type { ExchangeRecord } from '../../core/journey/exchange-record'
import { peakOf } from '../../core/load/profile'
import { runLengthMs } from '../../core/plan/length'
import type { RunDocument } from '../../core/run/document'
import { ClaimedFrames } from './claimed-frames'
import type { RunMerge } from './run-merge'

/** What came at once. Moments in ms since 1970. */
export interface ToldLines {
  sender: number
  bytes: Uint8Array
  /** Moment of run second 0. */
  startAt: number
  receivedAt: number
  /** The sender's own clock, when it sent this. */
  sentAt?: number
  /** Counted by the sender, from 1. */
  batch?: number
}

/** A user who has said nothing for so long is taken to have gone, s. */
const AWAY_S = 10
/** A line further ahead of our clock than this is of a clock that is wrong, ms. */
const AHEAD_MS = 5000
/** A moment before the run began by more than this is no part of it, ms. */
const BEFORE_MS = 5000
/** Lengths a run is drawn in while it goes on, s. */
const LENGTHS_S = [60, 120, 300, 600, 1200, 1800, 3600, 7200, 14_400, 28_800, 86_400]
/** Failures kept with their message, of each sender and kind in a second. */
const KEPT_IN_SECOND = 3

const batchFact = (sender: number) => `batch of ${sender}`

export class ToldLive {
  private readonly series: ClaimedSeries
  private readonly frames: ClaimedFrames
  /** By sender: by how much its clock differs from ours, at the least that was seen, ms. */
  private readonly offsets = new Map<number, number>()
  /** By sender: users and the second in which each was last heard of; or how many it told of. */
  private readonly users = new Map<number, Map<string, number>>()
  private readonly told = new Map<number, number>()
  private readonly heardS = new Map<number, number>()
  private kept: { sender: number, record: ExchangeRecord }[] = []
  private readonly keptIn = new Map<string, number>()
  private peak = 0
  private lastS = 0

  constructor(
    private readonly merge: RunMerge,
    private readonly startAt: number,
    incarnation: number,
  ) {
    const claimed = claimOf(merge.asItIs)
    this.series = new ClaimedSeries(merge.asItIs)
    this.frames = new ClaimedFrames(
      claimed.senders.length,
      startAt,
      (sender, step) => this.series.of(claimed.senders[sender]!.location, step),
      incarnation,
    )
    this.lastS = merge.seconds().at(-1)?.second ?? 0
    this.peak = peakOf(merge.asItIs.plan.groups[0]!.profile)
  }

  take({ sender, bytes, receivedAt, sentAt, batch }: ToldLines): TakenLines {
    const before = Number(this.merge.fact(batchFact(sender)) ?? 0)
    if (batch !== undefined && batch <= before) return { taken: 0, again: true, faults: [], faultCount: 0 }
    if (batch !== undefined) this.merge.note(batchFact(sender), String(batch))
    if (sentAt !== undefined)
      this.offsets.set(sender, Math.min(this.offsets.get(sender) ?? Number.POSITIVE_INFINITY, receivedAt - sentAt))
    const offset = this.offsets.get(sender) ?? 0
    const taken: TakenLines = { taken: 0, faults: [], faultCount: 0 }
    for (const { line, read } of samplesIn(new TextDecoder().decode(bytes))) {
      const problem = this.takeLine(sender, read, offset, receivedAt)
      if (problem === undefined) taken.taken++
      else {
        taken.faultCount++
        if (taken.faults.length < MOST_FAULTS) taken.faults.push({ line, sentence: problem })
      }
    }
    this.heardS.set(sender, this.frames.secondOf(receivedAt))
    return taken
  }

  /** @returns what is wrong with it */
  private takeLine(
    sender: number,
    read: WrittenSample | string,
    offset: number,
    receivedAt: number,
  ): string | undefined {
    if (typeof read === 'string') return read
    const endedMs = read.atMs === undefined ? receivedAt : read.atMs + offset
    if (endedMs > receivedAt + AHEAD_MS)
      return `it ended ${Math.round((endedMs - receivedAt) / 1000)} s ahead of the clock here: send sentAt with it`
    if (endedMs < this.startAt - BEFORE_MS)
      return `it ended ${Math.round((this.startAt - endedMs) / 1000)} s before the run began: send sentAt with it`
    if (endedMs >= this.startAt + LONGEST_CLAIMED_S * 1000)
      return `it ended more than ${LONGEST_CLAIMED_S / 3600} h after the run began: open another run`
    const sample: ClaimedSample = {
      step: read.step,
      beganMs: endedMs - read.durationMs,
      durationMs: read.durationMs,
      ok: read.ok,
      status: read.status,
      bytes: read.bytes,
      sent: read.sent,
      place: '',
      user: read.user,
      users: read.users,
      message: read.message,
    }
    this.frames.add(sender, sample)
    const second = this.frames.secondOf(endedMs)
    this.lastS = Math.max(this.lastS, second)
    if (sample.users >= 0) this.told.set(sender, sample.users)
    if (sample.user !== '') {
      const users = this.users.get(sender) ?? new Map<string, number>()
      if (users.size === 0) this.users.set(sender, users)
      users.set(sample.user, Math.max(users.get(sample.user) ?? 0, second))
    }
    if (!sample.ok) this.keep(sender, sample, endedMs)
    return undefined
  }

  /**
   * Hands all that was told to the merge: the program that told it is answered when that is written down.
   *
   * @returns the document, where more came up in it
   */
  cut(now: number, last = false): RunDocument | undefined {
    const second = Math.min(this.frames.secondOf(now), LONGEST_CLAIMED_S - 1)
    for (const [sender, heard] of this.heardS)
      if (last || second - heard <= 2) this.frames.present(sender, last ? this.lastS : Math.max(0, second - 1))
    const cut = this.frames.cut(Number.POSITIVE_INFINITY, (sender, s) => this.usersAt(sender, s), last)
    const grown = this.grown(last)
    if (grown) this.merge.grow(grown)
    for (const { sender, bytes } of cut) {
      const problem = this.merge.take(sender, bytes)
      if (problem !== undefined) throw new Error(problem)
    }
    return grown
  }

  /** Failures to be kept with what was said of them. */
  takeKept(): { sender: number, record: ExchangeRecord }[] {
    const { kept } = this
    this.kept = []
    this.keptIn.clear()
    return kept
  }

  private usersAt(sender: number, second: number): number {
    const told = this.told.get(sender)
    if (told !== undefined) return told
    const users = this.users.get(sender)
    if (!users) return 0
    for (const [user, heard] of users) if (second - heard > AWAY_S) users.delete(user)
    return users.size
  }

  private grown(last: boolean): RunDocument | undefined {
    const now = this.merge.asItIs
    const more = this.series.grownDocument(now)
    this.peak = Math.max(this.peak, this.claimedSendersUsers())
    const lengthS = last ? this.lastS + 1 : LENGTHS_S.find(l => l > this.lastS) ?? LONGEST_CLAIMED_S
    const isAsLong = runLengthMs(now) === lengthS * 1000 && peakOf(now.plan.groups[0]!.profile) === this.peak
    if (!more && isAsLong && !last) return undefined
    const document = asLongAs(more ?? now, lengthS, this.peak)
    if (!last) return document
    const { goesOn: _, ...claimed } = claimOf(document)
    return { ...document, claimed }
  }

  private claimedSendersUsers(): number {
    return claimOf(this.merge.asItIs).senders.reduce((sum, _, sender) => sum + this.usersAt(sender, this.lastS), 0)
  }

  private runMs(ms: number): number {
    return Math.max(0, ms - this.startAt)
  }

  private keep(sender: number, sample: ClaimedSample, endedMs: number): void {
    const failure = failureOf(sample)
    const key = `${sender} ${failure}`
    const n = (this.keptIn.get(key) ?? 0) + 1
    this.keptIn.set(key, n)
    if (n > KEPT_IN_SECOND) return
    const journeyId = this.merge.asItIs.journeys[0]!.id
    this.kept.push({
      sender,
      record: recordOf(sample, failure, journeyId, this.runMs(sample.beganMs), this.runMs(endedMs)),
    })
  }
}
