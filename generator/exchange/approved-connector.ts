/**
 * Opens sockets to approved hosts only. Checked here, at the socket, so that no redirect, template or typing slip can
 * send load to anybody who has not agreed to it: hosts by name, and what those names stand for.
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
import { addressFault } from '../../core/journey/approved-address'
import { ShapedSocket } from '../shaper/shaped-socket'
import type { UserNetwork } from '../shaper/user-network'
import { approvedLookup, NotApproved } from './approved-names'
import type { Allowed, Handshake } from './exchange'
import { openTunnel, type Proxy } from './proxy'

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

type Connect = (
  options: buildConnector.Options,
  visitor: Visitor,
  done: (error: Error | null, socket: Socket | null, handshake: Handshake) => void,
) => void

/** A maker of connections for one user. */
export type Connector = Connect & {
  /** Whether requests may say they are for that host. @param name as in a `host` header @param secure over TLS */
  approvesName(name: string, secure: boolean): boolean
}

export interface ConnectorOptions extends Allowed {
  count: SocketCount
  /** HTTP/2 where the other side offers it. */
  http2?: boolean
  /** Gone out through; it looks names up then. */
  proxy?: Proxy
  /** PEM of an authority trusted besides the usual ones. */
  trust?: string
}

// eslint-disable-next-line max-lines-per-function -- a closure: its functions share what it keeps
export function approvedConnector(options: ConnectorOptions): Connector {
  const { hosts, addressRanges, count, http2, trust, proxy } = options
  const protocols = http2 ? ['h2', 'http/1.1'] : ['http/1.1']
  // Made once and only when asked for: reading all authorities took 60 ms of every single connection.
  let context: SecureContext | undefined
  const secureContext = () => (context ??= createSecureContext(trust ? { ca: [...rootCertificates, trust] } : {}))
  /** Least round trip seen per host: a connection made in a busy moment must not make a network look worse. */
  const leastRttMs = new Map<string, number>()
  const approvesName = (name: string, secure: boolean) =>
    hosts.has(/:\d+$/.test(name) ? name : `${name}:${secure ? '443' : '80'}`)
  // eslint-disable-next-line max-lines-per-function -- a closure: its functions share what it keeps
  const connect: Connect = ({ hostname, protocol, port: given, servername }, { sessions, network }, done) => {
    const handshake: Handshake = { lookupMs: -1, connectMs: -1, tlsMs: -1 }
    const secure = protocol === 'https:'
    const port = given || (secure ? '443' : '80')
    const host = `${hostname}:${port}`
    if (!hosts.has(host)) return done(new NotApproved(`${host} is not among the approved hosts`), null, handshake)
    const bare = hostname.replace(/^\[|\]$/g, '')
    const fault = isIP(bare) ? addressFault(host, bare, { addressRanges }) : undefined
    if (fault) return done(new NotApproved(fault), null, handshake)
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
      ...(proxy
        ? { host: proxy.host, port: proxy.port }
        : { host: bare, port: Number(port), lookup: approvedLookup(host, { addressRanges }) }),
      noDelay: true,
      keepAlive: !secure,
    })
    raw.once('error', fail)
    if (!isIP(bare))
      raw.once('lookup', () => {
        handshake.lookupMs = lap()
      })
    raw.once('connect', () => {
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
          // It behaves as one in all that the client uses.
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
  return Object.assign(connect, { approvesName })
}
