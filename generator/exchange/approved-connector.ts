/**
 * Opens sockets to approved hosts only. Checked here, at the socket, so that no redirect, template or typing slip can send load to anybody
 * who has not agreed to it; link-local addresses are denied even when a name resolves to them.
 */
import { connect as connectTcp, isIP, type Socket } from 'node:net'
import { connect as connectTls, rootCertificates, type TLSSocket } from 'node:tls'
import type { buildConnector } from 'undici'
import type { Allowed, Handshake } from './exchange'

export class NotApproved extends Error {
  override name = 'NotApproved'
  readonly code = 'VORNAK_NOT_APPROVED'
}

/** Called when a socket has been made, or has gone. */
export interface SocketCount { opened(): void, closed(): void }

/** What one user keeps between connections: its TLS sessions by host, so that it comes back as the same visitor. */
export type TlsSessions = Map<string, Buffer>

/** A maker of connections for one user. */
export type Connector = (options: buildConnector.Options, sessions: TlsSessions, done: (error: Error | null, socket: Socket | null, handshake: Handshake) => void) => void

export interface ConnectorOptions extends Allowed {
  count: SocketCount
  /** HTTP/2 where the other side offers it. */
  http2?: boolean
  /** PEM of an authority trusted besides the usual ones. */
  trust?: string
}

export function approvedConnector({ hosts, count, http2, trust }: ConnectorOptions): Connector {
  const protocols = http2 ? ['h2', 'http/1.1'] : ['http/1.1']
  const authorities = trust ? { ca: [...rootCertificates, trust] } : {}
  return ({ hostname, protocol, port: given, servername }, sessions, done) => {
    const handshake: Handshake = { lookupMs: -1, connectMs: -1, tlsMs: -1 }
    const secure = protocol === 'https:'
    const port = given || (secure ? '443' : '80')
    const host = `${hostname}:${port}`
    if (!hosts.has(host)) return done(new NotApproved(`${host} is not among the approved hosts`), null, handshake)
    if (isLinkLocal(hostname)) return done(new NotApproved(`${host} is a link-local address`), null, handshake)
    const bare = hostname.replace(/^\[|\]$/g, '')
    const address = { host: bare, port: Number(port), noDelay: true }
    const session = sessions.get(host)
    const socket: Socket | TLSSocket = secure
      ? connectTls({ ...address, ...authorities, ALPNProtocols: protocols, ...(isIP(bare) ? {} : { servername: servername || bare }), ...(session ? { session } : {}) })
      : connectTcp({ ...address, keepAlive: true })
    let at = performance.now()
    const lap = () => {
      const before = at
      at = performance.now()
      return at - before
    }
    if (!isIP(bare)) socket.once('lookup', () => { handshake.lookupMs = lap() })
    if (secure) {
      socket.once('connect', () => { handshake.connectMs = lap() })
      socket.on('session', (fresh: Buffer) => sessions.set(host, fresh))
    }
    let open = false
    socket.once(secure ? 'secureConnect' : 'connect', () => {
      if (secure) handshake.tlsMs = lap()
      else handshake.connectMs = lap()
      if (socket.remoteAddress && isLinkLocal(socket.remoteAddress)) {
        socket.destroy()
        return done(new NotApproved(`${host} resolves to the link-local address ${socket.remoteAddress}`), null, handshake)
      }
      open = true
      count.opened()
      socket.once('close', () => count.closed())
      done(null, socket, handshake)
    })
    socket.once('error', (error) => { if (!open) done(error, null, handshake) })
  }
}

/** 169.254.0.0/16 (RFC 3927), fe80::/10 (RFC 4291), also written as IPv4-mapped. */
export function isLinkLocal(address: string): boolean {
  const bare = address.replace(/^\[|\]$/g, '').replace(/^::ffff:/i, '').toLowerCase()
  if (isIP(bare) === 4) return bare.startsWith('169.254.')
  return isIP(bare) === 6 && /^fe[89ab][0-9a-f]:/.test(bare)
}
