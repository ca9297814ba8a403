/** What is recorded of an exchange beside its outcome: its status, bytes, handshake, and the time the target took. */
import type { SentState } from '../../core/journey/failure-kinds'
import { serverTimingMs } from '../../core/journey/server-timing'
import type { OnTheLine } from '../../protocol/series-second'
import { bodyBytes, type Outcome, type PreparedRequest } from '../exchange/exchange'
import type { LoadedAnswer } from '../journey/loaded-answer'

/** The request that was answered last, and the connections that were made for those it was redirected from. */
interface Sent {
  request: PreparedRequest
  connectMs: number
  handshake: Outcome['handshake']
}

/** @param line is overwritten: it allocates nothing @returns the same; read it before the next exchange */
export function onTheLine(line: OnTheLine, sent: Sent, outcome: Outcome, reach: SentState): OnTheLine {
  line.status = outcome.status
  line.bytes = outcome.bytes
  line.bytesSent = reach === 'neverSent' ? 0 : bodyBytes(sent.request)
  line.connectMs = outcome.connectMs >= 0 ? outcome.connectMs : sent.connectMs
  const parts = outcome.handshake ?? sent.handshake
  line.lookupMs = parts ? parts.lookupMs : -1
  line.tlsMs = parts ? parts.tlsMs : -1
  return line
}

/** What the target says it took inside, ms; −1 when it does not say. @param name of the metric; undefined: none */
export function insideMs(answer: LoadedAnswer, name: string | undefined): number {
  if (name === undefined) return -1
  const header = answer.header('server-timing')
  return header === undefined ? -1 : (serverTimingMs(header, name) ?? -1)
}
