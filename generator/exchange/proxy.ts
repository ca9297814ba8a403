/**
 * Users' connections through a proxy: asked for with CONNECT (RFC 9110, section 9.3.6), signed in with Basic (RFC 7617)
 * where its address carries a user.
 */
import type { Socket } from 'node:net'

export interface Proxy {
  host: string
  port: number
  authorization?: string
}

/** A proxy that takes longer is given up, ms. */
const CONNECT_MS = 10_000
/** Longest answer to CONNECT, bytes. */
const MOST_HEAD = 16 * 1024

/** @throws TypeError when it is no address */
export function readProxy(address: string): Proxy {
  const url = new URL(address)
  return {
    host: url.hostname.replace(/^\[|\]$/g, ''),
    port: Number(url.port || 80),
    ...(url.username
      ? {
          authorization: `Basic ${Buffer.from(`${decodeURIComponent(url.username)}:${decodeURIComponent(url.password)}`).toString('base64')}`,
        }
      : {}),
  }
}

/** Turns a connection to the proxy into one to the host. What comes after is the host's own. */
export function openTunnel(socket: Socket, host: string, { authorization }: Proxy): Promise<void> {
  return new Promise((resolve, reject) => {
    let head = Buffer.alloc(0)
    const timer = setTimeout(() => end(new Error('the proxy does not answer')), CONNECT_MS)
    const end = (error?: Error) => {
      clearTimeout(timer)
      // Read by hand, so that nothing flows before the next reader is there.
      socket.removeListener('readable', take)
      socket.removeListener('close', closed)
      if (!error) return resolve()
      socket.destroy()
      reject(Object.assign(error, { code: 'VORNAK_PROXY' }))
    }
    const closed = () => end(new Error('the proxy hung up'))
    const take = () => {
      // Without an encoding it reads bytes.
      for (let chunk: Buffer | null; (chunk = socket.read() as Buffer | null);) head = Buffer.concat([head, chunk])
      const at = head.indexOf('\r\n\r\n')
      if (at < 0)
        return head.length > MOST_HEAD ? end(new Error('the proxy answers something else than HTTP')) : undefined
      const status = /^HTTP\/1\.[01] (\d{3})/.exec(head.toString('latin1'))?.[1] ?? 'nothing'
      if (!status.startsWith('2'))
        return end(
          new Error(
            status === '407' ? 'the proxy wants another user or password (407)' : `the proxy answers ${status}`,
          ),
        )
      end()
      const rest = head.subarray(at + 4)
      if (rest.length > 0) socket.unshift(rest)
    }
    socket.on('readable', take)
    socket.once('close', closed)
    socket.write(
      `CONNECT ${host} HTTP/1.1\r\nhost: ${host}\r\n${authorization ? `proxy-authorization: ${authorization}\r\n` : ''}\r\n`,
    )
  })
}
