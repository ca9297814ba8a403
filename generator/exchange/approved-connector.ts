/**
 * Opens sockets to approved hosts only. Checked here, at the socket, so that no redirect, template or typing slip can send load to anybody
 * who has not agreed to it; link-local addresses are denied even when a name resolves to them.
 */
import { isIP } from 'node:net'
import { buildConnector } from 'undici'
import type { Allowed } from './exchange'

export class NotApproved extends Error {
  override name = 'NotApproved'
  readonly code = 'VORNAK_NOT_APPROVED'
}

/** Called when a socket has been made, or has gone. */
export interface SocketCount { opened(): void, closed(): void }

/** A maker of connections for undici that refuses what is not approved. */
export function approvedConnector(allowed: Allowed, count: SocketCount): buildConnector.connector {
  // Timeouts are the step's own; a cached TLS session would make every user a returning visitor of the others.
  const connect = buildConnector({ timeout: 0, maxCachedSessions: 0 })
  return (options, callback) => {
    const port = options.port || (options.protocol === 'https:' ? '443' : '80')
    const host = `${options.hostname}:${port}`
    if (!allowed.hosts.has(host)) return callback(new NotApproved(`${host} is not among the approved hosts`), null)
    if (isLinkLocal(options.hostname)) return callback(new NotApproved(`${host} is a link-local address`), null)
    connect(options, (error, socket) => {
      if (error || !socket) return callback(error ?? new Error('no socket'), null)
      if (socket.remoteAddress && isLinkLocal(socket.remoteAddress)) {
        socket.destroy()
        return callback(new NotApproved(`${host} resolves to the link-local address ${socket.remoteAddress}`), null)
      }
      count.opened()
      socket.once('close', () => count.closed())
      callback(null, socket)
    })
  }
}

/** 169.254.0.0/16 (RFC 3927), fe80::/10 (RFC 4291), also written as IPv4-mapped. */
export function isLinkLocal(address: string): boolean {
  const bare = address.replace(/^\[|\]$/g, '').replace(/^::ffff:/i, '').toLowerCase()
  if (isIP(bare) === 4) return bare.startsWith('169.254.')
  return isIP(bare) === 6 && /^fe[89ab][0-9a-f]:/.test(bare)
}
