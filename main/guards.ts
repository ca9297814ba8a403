/**
 * Guards at the door of the HTTP server, for pages, API and sockets alike: anyone who calls must know the server by its
 * own name (so that a foreign name resolving here gets nothing) and must not be another site's page.
 */
import type { IncomingMessage } from 'node:http'
import type { ErrorCode } from '../api/errors'

/** Largest request body, bytes. */
export const MOST_BODY_BYTES = 2 * 1024 * 1024

export interface TurnedAway {
  status: number
  code: ErrorCode
  sentence: string
  remedy: string
}

/** @param names hosts this server is called by, with port */
export function guardHost(request: IncomingMessage, names: ReadonlySet<string>): TurnedAway | undefined {
  if (names.has(request.headers.host ?? '')) return undefined
  return {
    status: 421,
    code: 'host',
    sentence: `This server is not ${request.headers.host ?? 'nameless'}.`,
    remedy: `Call it by one of ${[...names].join(', ')}.`,
  }
}

/** A browser says which page a call comes from; programs that are not browsers say nothing. */
export function guardOrigin(request: IncomingMessage, origins: ReadonlySet<string>): TurnedAway | undefined {
  const { origin } = request.headers
  if (origin === undefined || origins.has(origin)) return undefined
  return {
    status: 403,
    code: 'origin',
    sentence: `Pages of ${origin} may not call this server.`,
    remedy: 'Open Vornak at its own address.',
  }
}

/** What a proxy writes of whom it speaks for. */
const FORWARDED = ['forwarded', 'x-forwarded-for', 'x-forwarded-host', 'x-forwarded-proto', 'x-real-ip']

/**
 * A proxy must not open the server to others unasked.
 *
 * @param known whether it came from a proxy that the server was told of, and people can sign in
 */
export function guardForwarded(request: IncomingMessage, known: boolean): TurnedAway | undefined {
  if (known || FORWARDED.every(name => request.headers[name] === undefined)) return undefined
  return {
    status: 403,
    code: 'forwarded',
    sentence: 'This request was forwarded from elsewhere, by a proxy this server was not told of.',
    remedy: 'Make the first person, then start Vornak with VORNAK_PROXY, the address of the proxy.',
  }
}

/**
 * Where files are uploaded: a content type of their own, which another site's form cannot send either, and a size of
 * their own.
 */
const UPLOADS = /^\/api\/files(\?|$)/

/** Where programs send figures, and tell what they measure: by a token in a header that no form sends. */
const SENT = /^\/api\/(sent|told)\//

/** What changes something must carry JSON, which another site's form cannot send; and not too much of it. */
export function guardBody(request: IncomingMessage): TurnedAway | undefined {
  if (request.method === 'GET' || request.method === 'HEAD' || request.method === 'OPTIONS') return undefined
  if (UPLOADS.test(request.url ?? '') && /^application\/octet-stream$/i.test(request.headers['content-type'] ?? ''))
    return undefined
  if (!SENT.test(request.url ?? '') && !/^application\/json\b/i.test(request.headers['content-type'] ?? ''))
    return {
      status: 415,
      code: 'content-type',
      sentence: 'The request does not carry JSON.',
      remedy: 'Send content-type: application/json.',
    }
  if (Number(request.headers['content-length'] ?? 0) > MOST_BODY_BYTES)
    return {
      status: 413,
      code: 'too-large',
      sentence: `The request is larger than ${MOST_BODY_BYTES / 1024 / 1024} MB.`,
      remedy: 'Send less at once.',
    }
  return undefined
}
