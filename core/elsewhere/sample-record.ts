/** A sample that failed, as an exchange that is kept: nothing is known of it but what was told. */
import type { ExchangeRecord } from '../journey/exchange-record'
import type { FailureKind } from '../journey/failure-kinds'
import type { ClaimedSample } from './sample'

/** @param beganAtMs from the start of the run */
export function recordOf(
  sample: ClaimedSample,
  failure: FailureKind,
  journeyId: string,
  beganAtMs: number,
  endedAtMs: number,
): ExchangeRecord {
  const number = Number(/\d+/.exec(sample.user)?.[0] ?? 0)
  return {
    keptFor: 'failure',
    group: 'A',
    journeyId,
    step: sample.step,
    user: Number.isSafeInteger(number) ? number : 0,
    pass: 0,
    beganAtMs,
    endedAtMs,
    request: { method: '', url: '', headers: [], body: '', bodyBytes: sample.sent },
    answer: sample.status > 0 ? { status: sample.status, headers: [], body: '', bytes: sample.bytes, whole: false } : undefined,
    hops: [],
    timings: { lookupMs: -1, connectMs: -1, tlsMs: -1, firstByteMs: -1, wholeMs: sample.durationMs ?? -1 },
    failure,
    problem: sample.message,
    checks: [],
    captured: [],
  }
}
