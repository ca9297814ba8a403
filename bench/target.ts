/** A tiny HTTP target in a process of its own, so that its CPU is not counted: `node bench.mjs target`. Prints its port, ends with its parent. */
import { spawn, type ChildProcess } from 'node:child_process'
import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'

export function serveTarget(): void {
  let turn = 0
  const server = createServer({ keepAliveTimeout: 120_000 }, (request, response) => {
    request.resume()
    response.setHeader('content-type', 'application/json')
    if (request.url!.startsWith('/journey/')) {
      // The full journey's answers: a cookie that changes now and then, a token to capture, something to expect.
      if (request.url === '/journey/token') {
        turn++
        if (turn % 20 === 0 || !request.headers.cookie) response.setHeader('set-cookie', `visit=${turn}; Path=/; HttpOnly`)
        return response.end(`{"ok":true,"token":"t-${turn}"}`)
      }
      return response.end('{"ok":true,"modules":["OSU-1101","OSU-1102","OSU-1103"]}')
    }
    response.end('{"ok":true}')
  })
  server.listen(0, '127.0.0.1', () => process.send!({ port: (server.address() as AddressInfo).port }))
  process.on('disconnect', () => process.exit(0))
}

/** Starts one. */
export async function startTarget(program: string): Promise<{ host: string, stop(): void }> {
  const child: ChildProcess = spawn(process.execPath, [program, 'target'], { stdio: ['ignore', 'inherit', 'inherit', 'ipc'] })
  const { port } = await new Promise<{ port: number }>(r => child.once('message', m => r(m as { port: number })))
  return { host: `127.0.0.1:${port}`, stop: () => child.disconnect() }
}
