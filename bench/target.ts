/**
 * A tiny HTTP target in a process of its own, so that its CPU is not counted: `node bench.mjs target`. Prints its port,
 * ends with its parent.
 */
import { spawn, type ChildProcess } from 'node:child_process'
import { createServer, type RequestListener } from 'node:http'
import { createServer as createSecure } from 'node:https'
import type { AddressInfo } from 'node:net'
import { CERTIFICATE, KEY } from './certificate'

/** Answers longer than this come in one piece, too: `/bytes/N`. */
const BODY = Buffer.alloc(8_000_000, 'x')

/** @param secure over TLS */
export function serveTarget(secure: boolean): void {
  let turn = 0
  const listener: RequestListener = (request, response) => {
    request.resume()
    response.setHeader('content-type', 'application/json')
    if (request.url!.startsWith('/journey/')) {
      // The full journey's answers: a cookie that changes now and then, a token to capture, something to expect.
      if (request.url === '/journey/token') {
        turn++
        if (turn % 20 === 0 || !request.headers.cookie)
          response.setHeader('set-cookie', `visit=${turn}; Path=/; HttpOnly`)
        return response.end(`{"ok":true,"token":"t-${turn}"}`)
      }
      return response.end('{"ok":true,"modules":["OSU-1101","OSU-1102","OSU-1103"]}')
    }
    if (request.url!.startsWith('/bytes/')) return response.end(BODY.subarray(0, Number(request.url!.slice(7))))
    response.end('{"ok":true}')
  }
  const server = secure
    ? createSecure({ key: KEY, cert: CERTIFICATE, keepAliveTimeout: 120_000 }, listener)
    : createServer({ keepAliveTimeout: 120_000 }, listener)
  server.listen(0, '127.0.0.1', () => process.send!({ port: (server.address() as AddressInfo).port }))
  process.on('disconnect', () => process.exit(0))
}

/** Starts one. */
export async function startTarget(program: string, secure = false): Promise<{ host: string, stop(): void }> {
  const child: ChildProcess = spawn(process.execPath, [program, secure ? 'secure-target' : 'target'], {
    stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
  })
  const { port } = await new Promise<{ port: number }>(r => child.once('message', m => r(m as { port: number })))
  return { host: `127.0.0.1:${port}`, stop: () => child.disconnect() }
}
