/** The figures a slice can be shown by: what they are called, as numbers, and as people read them. */
import type { SliceFigures } from '~~/core/result/slices'
import { bytes, count, rate, share, timeText } from '~~/core/values/said-figures'

export interface FigureColumn {
  id: string
  head: string
  unit?: string
  /** Shown only when it is asked for. */
  asked?: boolean
  /** @param lengthS of the window */
  value: (f: SliceFigures, lengthS: number) => number | string | undefined
  show: (f: SliceFigures, lengthS: number) => string
}

const counted = (id: string, head: string, value: (f: SliceFigures) => number, asked = false): FigureColumn => ({
  id,
  head,
  asked,
  value,
  show: f => count(value(f)),
})
const timed = (
  id: string,
  head: string,
  value: (f: SliceFigures) => number | undefined,
  asked = false,
): FigureColumn => ({ id, head, unit: 'ms', asked, value, show: f => timeText(value(f)) })
const perAnswer = (f: SliceFigures) => (f.right + f.failed > 0 ? f.bytes / (f.right + f.failed) : undefined)

/** Statuses with how many answers had them; a status that was right here and wrong there is told twice. */
const answersText = (f: SliceFigures) =>
  f.answers.map(a => `${a.status}${a.failure ? ' ✗' : ''} ${count(a.count)}`).join(', ') || '–'

export const FIGURE_COLUMNS: readonly FigureColumn[] = [
  counted('started', 'sent', f => f.started),
  {
    id: 'perSecond',
    head: 'per s',
    value: (f, lengthS) => f.started / lengthS,
    show: (f, lengthS) => rate(f.started / lengthS),
  },
  counted('right', 'right', f => f.right, true),
  counted('failed', 'failed', f => f.failed),
  {
    id: 'share',
    head: 'share',
    unit: '%',
    value: f => f.failureShare !== undefined ? f.failureShare * 100 : undefined,
    show: f => share(f.failureShare),
  },
  timed('min', 'smallest', f => f.minMs),
  timed('p50', 'p50', f => f.p50Ms),
  timed('p90', 'p90', f => f.p90Ms),
  timed('p95', 'p95', f => f.p95Ms),
  timed('p99', 'p99', f => f.p99Ms),
  timed('p999', 'p99.9', f => f.p999Ms, true),
  timed('max', 'largest', f => f.maxMs),
  timed('mean', 'mean', f => f.meanMs),
  timed('spread', 'spread', f => f.spreadMs, true),
  timed('intended', 'p95 from its due time', f => f.intendedP95Ms, true),
  timed('firstByteP50', 'p50 first byte', f => f.firstByteP50Ms, true),
  timed('firstByte', 'p95 first byte', f => f.firstByteP95Ms, true),
  timed('lookupP50', 'p50 name lookup', f => f.lookupP50Ms, true),
  timed('lookup', 'p95 name lookup', f => f.lookupP95Ms, true),
  timed('connectP50', 'p50 connect', f => f.connectP50Ms, true),
  timed('connect', 'p95 connect', f => f.connectP95Ms, true),
  timed('tlsP50', 'p50 TLS', f => f.tlsP50Ms, true),
  timed('tls', 'p95 TLS', f => f.tlsP95Ms, true),
  timed('insideP50', 'p50 inside', f => f.insideP50Ms, true),
  timed('inside', 'p95 inside', f => f.insideP95Ms, true),
  timed('onTheWayP50', 'p50 on the way', f => f.onTheWayP50Ms, true),
  timed('onTheWay', 'p95 on the way', f => f.onTheWayP95Ms, true),
  counted('connects', 'connections', f => f.connects, true),
  timed('failedP50', 'p50 of failures', f => f.failedP50Ms, true),
  {
    id: 'bytes',
    head: 'bodies received',
    unit: 'bytes',
    asked: true,
    value: f => f.bytes,
    show: f => (f.bytes > 0 ? bytes(f.bytes) : '–'),
  },
  {
    id: 'bytesSent',
    head: 'bodies sent',
    unit: 'bytes',
    asked: true,
    value: f => f.bytesSent,
    show: f => (f.bytesSent > 0 ? bytes(f.bytesSent) : '–'),
  },
  {
    id: 'flow',
    head: 'MB/s',
    value: (f, lengthS) => f.bytes / 1e6 / lengthS,
    show: (f, lengthS) => (f.bytes > 0 ? (f.bytes / 1e6 / lengthS).toFixed(2) : '–'),
  },
  {
    id: 'perAnswer',
    head: 'an answer',
    unit: 'bytes',
    asked: true,
    value: perAnswer,
    show: (f) => {
      const size = perAnswer(f)
      return size ? bytes(Math.round(size)) : '–'
    },
  },
  {
    id: 'answers',
    head: 'answers by status',
    asked: true,
    value: answersText,
    show: answersText,
  },
  counted('redirects', 'redirects', f => f.redirects, true),
  counted('cut', 'cut off', f => f.cut, true),
]
