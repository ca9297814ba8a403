/**
 * Guards at the door of the HTTP server, for pages, API and sockets alike: whoever calls must know the server by its
 * own name (so that a foreign name resolving here gets nothing) and must not be another site's page.
 */
import type { IncomingMessage } from 'node:http'
import type { ErrorCode } from '../api/errors'

/** Largest request body, bytes. */
export const MOST_BODY_BYTES = 2 * 1024 * 1024

export interface Refusal {
  status: number
  code: ErrorCode
  sentence: string
  remedy: string
}

/** @param names hosts this server is called by, with port */
export function guardHost(request: IncomingMessage, names: ReadonlySet<string>): Refusal | undefined {
  if (names.has(request.headers.host ?? '')) return undefined
  return {
    status: 421,
    code: 'host',
    sentence: `This server is not ${request.headers.host ?? 'nameless'}.`,
    remedy: `Call it by one of ${[...names].join(', ')}.`,
  }
}

/** A browser says which page a call comes from; programs that are not browsers say nothing. */
export function guardOrigin(request: IncomingMessage, origins: ReadonlySet<string>): Refusal | undefined {
  const { origin } = request.headers
  if (origin === undefined || origins.has(origin)) return undefined
  return {
    status: 403,
    code: 'origin',
    sentence: `Pages of ${origin} may not call this server.`,
    remedy: 'Open Vornak at its own address.',
  }
}

/**
 * Where files are uploaded: a content type of their own, which another site's form cannot send either, and a size of
 * their own.
 */
const UPLOADS = /^\/api\/files(\?|$)/

/** What changes something must carry JSON, which another site's form cannot send; and not too much of it. */
export function guardBody(request: IncomingMessage): Refusal | undefined {
  if (request.method === 'GET' || request.method === 'HEAD' || request.method === 'OPTIONS') return undefined
  if (UPLOADS.test(request.url ?? '') && /^application\/octet-stream$/i.test(request.headers['content-type'] ?? ''))
    return undefined
  if (!/^application\/json\b/i.test(request.headers['content-type'] ?? ''))
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
