/**
 * Exchanges that were kept, as HAR 1.2 (the W3C Web Performance group's HTTP Archive draft). What the format has no
 * place for stands in fields of our own, which begin with an underscore, as it says.
 */
import type { ExchangeRecord } from '../journey/exchange-record'
import type { Pair } from '../journey/journey'

export interface HarRun {
  /** Moment of run second 0, ms since 1970. */
  startAt: number
  version: string
  /** What was kept is more than this: how much. */
  comment?: string
}

const pairs = (list: readonly Pair[]) => list.map(([name, value]) => ({ name, value }))
const headerOf = (list: readonly Pair[], wanted: string) =>
  list.find(([name]) => name.toLowerCase() === wanted)?.[1] ?? ''

/** @param records with where each was sent from */
export function harOf(
  records: readonly (ExchangeRecord & { machine: string })[],
  { startAt, version, comment = '' }: HarRun,
): object {
  return {
    log: {
      version: '1.2',
      creator: { name: 'Vornak', version },
      comment,
      entries: [...records].sort((a, b) => a.beganAtMs - b.beganAtMs).map(r => entryOf(r, startAt)),
    },
  }
}

function entryOf(r: ExchangeRecord & { machine: string }, startAt: number): object {
  const { request, answer } = r
  return {
    startedDateTime: new Date(startAt + r.beganAtMs).toISOString(),
    time: Math.max(0, r.timings.wholeMs),
    request: {
      method: request.method,
      url: request.url,
      httpVersion: 'HTTP/1.1',
      cookies: [],
      headers: pairs(request.headers),
      queryString: queryOf(request.url),
      headersSize: -1,
      bodySize: request.bodyBytes,
      ...(request.body === ''
        ? {}
        : { postData: { mimeType: headerOf(request.headers, 'content-type'), text: request.body } }),
    },
    response: {
      status: answer?.status ?? 0,
      statusText: '',
      httpVersion: 'HTTP/1.1',
      cookies: [],
      headers: pairs(answer?.headers ?? []),
      content: {
        size: answer?.bytes ?? 0,
        mimeType: headerOf(answer?.headers ?? [], 'content-type'),
        ...(answer?.body ? { text: answer.body } : {}),
        ...(answer && !answer.whole ? { comment: 'Its beginning.' } : {}),
      },
      redirectURL: headerOf(answer?.headers ?? [], 'location'),
      headersSize: -1,
      bodySize: answer?.bytes ?? -1,
    },
    cache: {},
    timings: timingsOf(r),
    comment: r.problem,
    _step: r.step,
    _journey: r.journeyId,
    _group: r.group,
    _user: r.user,
    _pass: r.pass,
    _machine: r.machine,
    ...(r.failure ? { _failure: r.failure } : {}),
  }
}

function queryOf(url: string): { name: string, value: string }[] {
  return URL.canParse(url) ? [...new URL(url).searchParams].map(([name, value]) => ({ name, value })) : []
}

/** Of which the parts add up to the whole; −1: it did not happen. TLS is part of connecting, as the format says. */
function timingsOf({ timings: { lookupMs, connectMs, tlsMs, firstByteMs, wholeMs } }: ExchangeRecord): object {
  const made = connectMs >= 0
  const dns = made ? Math.max(0, lookupMs) : -1
  const connect = made ? connectMs + Math.max(0, tlsMs) : -1
  const before = Math.max(0, dns) + Math.max(0, connect)
  const first = firstByteMs >= 0 ? firstByteMs : wholeMs
  const wait = Math.max(0, first - before)
  return {
    blocked: -1,
    dns: made && lookupMs >= 0 ? dns : -1,
    connect,
    ssl: made && tlsMs >= 0 ? tlsMs : -1,
    send: 0,
    wait,
    receive: Math.max(0, wholeMs - before - wait),
  }
}
