/**
 * What a user's running pass has done so far, as plain numbers: which pass is slowest, or fails, is known at its end
 * only, so every pass is written down, and most of them are thrown away.
 */
import type { FailureKind } from '../../core/journey/failure-kinds'
import { MOST_PASS_EXCHANGES, type PassExchange, type PassKeptFor, type PassRecord } from '../../core/journey/pass-record'
import type { Handshake } from '../exchange/exchange'
import type { OnTheLine } from '../../protocol/series-second'
import type { PreparedPart } from './prepared'

/** Numbers per exchange: 80 bytes. */
const NUMBERS = 10

/** Who walked the pass, and when. Monotonic moments, ms. */
export interface LoggedPass {
  keptFor: PassKeptFor
  group: string
  journeyId: string
  network: string
  client: string | undefined
  user: number
  pass: number
  startedAt: number
  endedAt: number
  cut: boolean
}

export class PassLog {
  /** Monotonic moment of its first exchange, ms; −1: none has begun. */
  beganAt = -1
  busyMs = 0
  /** The first of its failures. */
  failure: FailureKind | undefined
  private readonly numbers: number[] = []
  private readonly parts: PreparedPart[] = []
  private readonly failures: (FailureKind | undefined)[] = []

  get exchanges(): number {
    return this.parts.length
  }

  /**
   * @param firstByteAt monotonic moment, ms; −1: no answer came
   * @param handshake undefined: the connection was there
   */
  add(
    part: PreparedPart,
    beganAt: number,
    endedAt: number,
    firstByteAt: number,
    line: OnTheLine,
    handshake: Handshake | undefined,
    insideMs: number,
    failure: FailureKind | undefined,
  ): void {
    if (this.beganAt < 0) this.beganAt = beganAt
    this.failure ??= failure
    if (this.parts.length >= MOST_PASS_EXCHANGES) return
    this.parts.push(part)
    this.failures.push(failure)
    this.numbers.push(
      beganAt,
      endedAt,
      line.status,
      handshake ? handshake.lookupMs : -1,
      handshake ? handshake.connectMs : -1,
      handshake ? handshake.tlsMs : -1,
      firstByteAt < 0 ? -1 : firstByteAt - beganAt,
      line.bytes,
      line.bytesSent,
      insideMs,
    )
  }

  clear(): void {
    this.beganAt = -1
    this.busyMs = 0
    this.failure = undefined
    this.numbers.length = 0
    this.parts.length = 0
    this.failures.length = 0
  }

  recordOf({ startedAt, endedAt, client, ...of }: LoggedPass): PassRecord {
    return {
      ...of,
      ...(client ? { client } : {}),
      ...(this.failure ? { failure: this.failure } : {}),
      beganAtMs: this.beganAt - startedAt,
      endedAtMs: endedAt - startedAt,
      busyMs: this.busyMs,
      exchanges: this.parts.map((part, i) => this.exchangeAt(i, part.name, startedAt)),
    }
  }

  private exchangeAt(i: number, step: string, startedAt: number): PassExchange {
    const at = (n: number) => this.numbers[i * NUMBERS + n]!
    const failure = this.failures[i]
    return {
      step,
      beganAtMs: at(0) - startedAt,
      endedAtMs: at(1) - startedAt,
      status: at(2),
      ...(failure ? { failure } : {}),
      lookupMs: at(3),
      connectMs: at(4),
      tlsMs: at(5),
      firstByteMs: at(6),
      bytes: at(7),
      bytesSent: at(8),
      ...(at(9) >= 0 ? { insideMs: at(9) } : {}),
    }
  }
}
