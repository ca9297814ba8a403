/**
 * The way to one host, part by part: name, connection, TLS, the first byte of an answer. It is the way users take:
 * through the proxy, where there is one.
 */
import { lookup } from 'node:dns/promises'
import { connect, isIP, type Socket } from 'node:net'
import { connect as connectTls } from 'node:tls'
import type { ReachedHost } from '../../core/fleet/roll-call'
import { addressFault, type ApprovedRanges } from '../../core/journey/approved-address'
import { openTunnel, type Proxy } from '../exchange/proxy'
import { messageOf } from '../../core/values/thrown'

/** A host that takes longer is not reached, ms. */
const REACH_TIMEOUT_MS = 3000
/** Connections made to a host: the quickest tells the path, the others what the machine was busy with. */
const REACH_TIMES = 3
/** Answers are read this far, bytes: enough to recognise a challenge. */
const READ_BYTES = 8192
/** Words of pages that only people pass. From memory. */
const CHALLENGE = /captcha|are you (a )?human|verify you are|challenge-form/i

/**
 * @param approved what private addresses the name may stand for: no other is connected to
 * @param proxy gone through; it looks the name up, and its answer is part of the connection
 */
export async function reach(
  host: string,
  secure: boolean,
  approved: ApprovedRanges,
  proxy?: Proxy,
): Promise<ReachedHost> {
  const at = host.lastIndexOf(':')
  const name = host.slice(0, at).replace(/^\[|\]$/g, '')
  const port = Number(host.slice(at + 1))
  const found: ReachedHost = {
    host,
    ok: false,
    addresses: isIP(name) ? [name] : [],
    lookupMs: -1,
    connectMs: -1,
    tlsMs: -1,
    firstByteMs: -1,
    status: 0,
    challenge: false,
    from: '',
  }
  try {
    if (!isIP(name) && !proxy) {
      const began = performance.now()
      found.addresses = (await lookup(name, { all: true })).map(a => a.address)
      found.lookupMs = performance.now() - began
    }
    const faults = found.addresses.map(address => addressFault(host, address, approved))
    const address = found.addresses.find((_, i) => faults[i] === undefined)
    if (faults.length > 0 && address === undefined) throw new Error(faults[0])
    const open = () => (proxy ? connected(proxy.host, proxy.port) : connected(address ?? name, port))
    let socket: Socket | undefined
    for (let i = 0; i < REACH_TIMES; i++) {
      socket?.destroy()
      const began = performance.now()
      socket = await open()
      if (proxy) await openTunnel(socket, host, proxy)
      const took = performance.now() - began
      if (found.connectMs < 0 || took < found.connectMs) found.connectMs = took
    }
    if (!socket) return found
    found.from = socket.localAddress ?? ''
    found.ok = true
    await askOnce(socket, { name, host, secure }, found)
  }
  catch (error) {
    if (found.ok) return found
    return { ...found, connectMs: Math.max(0, found.connectMs), problem: messageOf(error) }
  }
  return found
}

function connected(address: string, port: number): Promise<Socket> {
  return new Promise((resolve, reject) => {
    const socket = connect({ host: address, port, timeout: REACH_TIMEOUT_MS, noDelay: true })
    const fail = (error: Error) => {
      socket.destroy()
      reject(error)
    }
    socket.once('connect', () => {
      socket.removeListener('error', fail)
      resolve(socket)
    })
    socket.once('timeout', () => fail(new Error(`no connection within ${REACH_TIMEOUT_MS / 1000} s`)))
    socket.once('error', fail)
  })
}

/**
 * One GET, to see what stands at the other end. What goes wrong here does not make the host unreached: it may speak
 * something else.
 */
function askOnce(
  raw: Socket,
  { name, host, secure }: { name: string, host: string, secure: boolean },
  found: ReachedHost,
): Promise<void> {
  return new Promise((resolve) => {
    let text = ''
    let began = performance.now()
    const socket = secure
      ? connectTls({ socket: raw, rejectUnauthorized: false, ...(isIP(name) ? {} : { servername: name }) })
      : raw
    const timer = setTimeout(() => end(), REACH_TIMEOUT_MS)
    const end = () => {
      clearTimeout(timer)
      found.status = Number(/^HTTP\/1\.[01] (\d{3})/.exec(text)?.[1] ?? 0)
      found.challenge = CHALLENGE.test(text)
      socket.destroy()
      resolve()
    }
    const ask = () => {
      began = performance.now()
      socket.write(
        `GET / HTTP/1.1\r\nhost: ${host}\r\nuser-agent: vornak-roll-call\r\naccept: */*\r\nconnection: close\r\n\r\n`,
      )
    }
    socket.on('data', (chunk: Buffer) => {
      if (found.firstByteMs < 0) found.firstByteMs = performance.now() - began
      text += chunk.toString('latin1')
      if (text.length > READ_BYTES) end()
    })
    socket.on('error', end)
    socket.on('close', end)
    if (!secure) return ask()
    socket.once('secureConnect', () => {
      found.tlsMs = performance.now() - began
      ask()
    })
  })
}
