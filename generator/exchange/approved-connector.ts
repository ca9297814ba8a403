/**
 * Opens sockets to approved hosts only. Checked here, at the socket, so that no redirect, template or typing slip can
 * send load to anybody who has not agreed to it; link-local addresses are denied even when a name resolves to them.
 */
import { connect as connectTcp, isIP, type Socket } from 'node:net'
import {
  connect as connectTls,
  createSecureContext,
  rootCertificates,
  type SecureContext,
  type TLSSocket,
} from 'node:tls'
import type { buildConnector } from 'undici'
import { ShapedSocket } from '../shaper/shaped-socket'
import type { UserNetwork } from '../shaper/user-network'
import type { Allowed, Handshake } from './exchange'
import { openTunnel, type Proxy } from './proxy'

class NotApproved extends Error {
  override name = 'NotApproved'
  readonly code = 'VORNAK_NOT_APPROVED'
}

/** Called when a socket has been made, or has gone. */
export interface SocketCount {
  opened(): void
  closed(): void
}

/** What one user keeps between connections: its TLS sessions by host, so that it comes back as the same visitor. */
export type TlsSessions = Map<string, Buffer>

/** Who connects: its TLS sessions, and the network it is on where something is added to the real one. */
export interface Visitor {
  sessions: TlsSessions
  network?: UserNetwork | undefined
}

/** A maker of connections for one user. */
export type Connector = (
  options: buildConnector.Options,
  visitor: Visitor,
  done: (error: Error | null, socket: Socket | null, handshake: Handshake) => void,
) => void

export interface ConnectorOptions extends Allowed {
  count: SocketCount
  /** HTTP/2 where the other side offers it. */
  http2?: boolean
  /** Gone out through; it looks names up then. */
  proxy?: Proxy
  /** PEM of an authority trusted besides the usual ones. */
  trust?: string
}

export function approvedConnector({ hosts, count, http2, trust, proxy }: ConnectorOptions): Connector {
  const protocols = http2 ? ['h2', 'http/1.1'] : ['http/1.1']
  // Made once and only when asked for: reading all authorities took 60 ms of every single connection.
  let context: SecureContext | undefined
  const secureContext = () => (context ??= createSecureContext(trust ? { ca: [...rootCertificates, trust] } : {}))
  /** Least round trip seen per host: a connection made in a busy moment must not make a network look worse. */
  const leastRttMs = new Map<string, number>()
  return ({ hostname, protocol, port: given, servername }, { sessions, network }, done) => {
    const handshake: Handshake = { lookupMs: -1, connectMs: -1, tlsMs: -1 }
    const secure = protocol === 'https:'
    const port = given || (secure ? '443' : '80')
    const host = `${hostname}:${port}`
    if (!hosts.has(host)) return done(new NotApproved(`${host} is not among the approved hosts`), null, handshake)
    if (isLinkLocal(hostname)) return done(new NotApproved(`${host} is a link-local address`), null, handshake)
    const bare = hostname.replace(/^\[|\]$/g, '')
    let told = false
    const fail = (error: Error) => {
      if (told) return
      told = true
      done(error, null, handshake)
    }
    let at = performance.now()
    const lap = () => {
      const before = at
      at = performance.now()
      return at - before
    }
    const raw = connectTcp({
      ...(proxy ? { host: proxy.host, port: proxy.port } : { host: bare, port: Number(port) }),
      noDelay: true,
      keepAlive: !secure,
    })
    raw.once('error', fail)
    if (!isIP(bare))
      raw.once('lookup', () => {
        handshake.lookupMs = lap()
      })
    raw.once('connect', () => {
      if (raw.remoteAddress && isLinkLocal(raw.remoteAddress)) {
        raw.destroy()
        return fail(new NotApproved(`${host} resolves to the link-local address ${raw.remoteAddress}`))
      }
      count.opened()
      raw.once('close', () => count.closed())
      if (!proxy) return onward()
      openTunnel(raw, host, proxy).then(onward, fail)
    })
    function onward(): void {
      if (!network) return reached(raw)
      const realRttMs = Math.min(performance.now() - at, leastRttMs.get(host) ?? Number.POSITIVE_INFINITY)
      leastRttMs.set(host, realRttMs)
      const dueAt = performance.now() + network.handshakeMs()
      setTimeout(
        () => {
          // Hung up on while the user's handshake was still on its way.
          if (raw.destroyed)
            return fail(
              Object.assign(new Error('the connection was closed before it was open'), { code: 'ECONNRESET' }),
            )
          reached(new ShapedSocket(raw, network, realRttMs, performance.now() - dueAt) as unknown as Socket)
        },
        Math.round(dueAt - performance.now()),
      )
    }
    // The road as the user has it: TLS goes over it like everything else.
    function reached(road: Socket): void {
      handshake.connectMs = lap()
      if (!secure) {
        told = true
        return done(null, road, handshake)
      }
      const session = sessions.get(host)
      const socket: TLSSocket = connectTls({
        socket: road,
        secureContext: secureContext(),
        ALPNProtocols: protocols,
        ...(isIP(bare) ? {} : { servername: servername || bare }),
        ...(session ? { session } : {}),
      })
      socket.on('session', (fresh: Buffer) => sessions.set(host, fresh))
      socket.once('error', fail)
      socket.once('secureConnect', () => {
        handshake.tlsMs = lap()
        told = true
        done(null, socket, handshake)
      })
    }
  }
}

/** 169.254.0.0/16 (RFC 3927), fe80::/10 (RFC 4291), also written as IPv4-mapped. */
export function isLinkLocal(address: string): boolean {
  const bare = address
    .replace(/^\[|\]$/g, '')
    .replace(/^::ffff:/i, '')
    .toLowerCase()
  if (isIP(bare) === 4) return bare.startsWith('169.254.')
  return isIP(bare) === 6 && /^fe[89ab][0-9a-f]:/.test(bare)
}
