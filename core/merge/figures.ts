/** The figures shown of a series or of a sum of them. Times in ms, shares from 0 to 1. */
import type { NotStarted } from '../load/drive'
import type { FailureKind } from '../journey/failure-kinds'
import { answerOf, type SeriesSum } from './series-sum'

export interface Figures {
  started: number
  right: number
  failed: number
  cut: number
  /** Further requests sent because an answer redirected. */
  redirects: number
  /** Bytes of answers' bodies received, of requests' bodies sent. */
  bytes: number
  bytesSent: number
  /** Passes begun. */
  passes: number
  /** Passes that were due and not started, by reason. */
  notStarted: Partial<Record<NotStarted, number>>
  /** Failures ÷ (right + failures), those of the generator's own fault left out; undefined when nothing ended. */
  failureShare: number | undefined
  failures: Partial<Record<FailureKind, number>>
  /** What answers missed: number in the step's list, and how many answers. */
  misses: [number: number, count: number][]
  /** Answers of which the head came, by status and by what became of them; the most frequent first. */
  answers: { status: number, failure?: FailureKind, count: number }[]
  /** Response times of right answers. */
  minMs: number | undefined
  meanMs: number | undefined
  p50Ms: number | undefined
  p90Ms: number | undefined
  p95Ms: number | undefined
  p99Ms: number | undefined
  maxMs: number | undefined
  /** From the intended start. */
  intendedP95Ms: number | undefined
  connectP50Ms: number | undefined
  connectP95Ms: number | undefined
  connectMeanMs: number | undefined
  /** Connections made. */
  connects: number
  firstByteP95Ms: number | undefined
  /** Median response time of failures. */
  failedP50Ms: number | undefined
}

/** Of nothing. */
export const NO_FIGURES: Figures = {
  started: 0,
  right: 0,
  failed: 0,
  cut: 0,
  redirects: 0,
  bytes: 0,
  bytesSent: 0,
  passes: 0,
  notStarted: {},
  failureShare: undefined,
  failures: {},
  misses: [],
  answers: [],
  minMs: undefined,
  meanMs: undefined,
  p50Ms: undefined,
  p90Ms: undefined,
  p95Ms: undefined,
  p99Ms: undefined,
  maxMs: undefined,
  intendedP95Ms: undefined,
  connectP50Ms: undefined,
  connectP95Ms: undefined,
  connectMeanMs: undefined,
  connects: 0,
  firstByteP95Ms: undefined,
  failedP50Ms: undefined,
}

export function figuresOf(sum: SeriesSum): Figures {
  const { right, failed, intended, connect, firstByte } = sum.timings
  const failedThere = sum.failed - sum.ownFaults
  const ended = sum.right + failedThere
  return {
    started: sum.started,
    right: sum.right,
    failed: sum.failed,
    cut: sum.cut,
    redirects: sum.redirects,
    bytes: sum.bytes,
    bytesSent: sum.bytesSent,
    passes: sum.passes,
    notStarted: sum.notStartedByReason(),
    failureShare: ended > 0 ? failedThere / ended : undefined,
    failures: sum.failuresByKind(),
    misses: [...sum.misses],
    answers: Array.from(sum.answers, ([number, count]) => {
      const { status, failure } = answerOf(number)
      return { status, ...(failure ? { failure } : {}), count }
    }).sort((a, b) => b.count - a.count),
    minMs: ms(Number.isFinite(sum.leastUs) ? sum.leastUs : right.minUs()),
    meanMs: ms(right.meanUs()),
    p50Ms: ms(right.percentileUs(0.5)),
    p90Ms: ms(right.percentileUs(0.9)),
    p95Ms: ms(right.percentileUs(0.95)),
    p99Ms: ms(right.percentileUs(0.99)),
    maxMs: ms(sum.mostUs > 0 ? sum.mostUs : right.maxUs()),
    intendedP95Ms: ms(intended.percentileUs(0.95)),
    connectP50Ms: ms(connect.percentileUs(0.5)),
    connectP95Ms: ms(connect.percentileUs(0.95)),
    connectMeanMs: ms(connect.meanUs()),
    connects: connect.count,
    firstByteP95Ms: ms(firstByte.percentileUs(0.95)),
    failedP50Ms: ms(failed.percentileUs(0.5)),
  }
}

function ms(us: number | undefined): number | undefined {
  return us === undefined ? undefined : us / 1000
}
