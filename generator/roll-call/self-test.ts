/**
 * A self-test: what an exchange costs this machine, when nobody has calibrated it. The generator talks to a server of
 * its own, so what it finds is on the safe side: the server's part is counted in.
 */
import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import { Pool } from 'undici'
import { SIGNAL_LIMITS } from '../../core/capacity/signals'
import type { SelfTest } from '../../core/fleet/roll-call'

const CONNECTIONS = 16
/** Requests of one burst per connection; pauses between keep it at about half of the CPU. */
const BURST = 4
const BODY = Buffer.alloc(600, 'v')

/** @param cores granted to this machine @param seconds it takes */
export async function selfTest(seconds: number, cores: number): Promise<SelfTest> {
  const server = createServer((request, response) => {
    request.resume()
    response.writeHead(200, { 'content-type': 'text/plain', 'content-length': BODY.length }).end(BODY)
  })
  await new Promise<void>(listening => server.listen(0, '127.0.0.1', listening))
  // It listens on a port.
  const pool = new Pool(`http://127.0.0.1:${(server.address() as AddressInfo).port}`, {
    connections: CONNECTIONS,
    pipelining: 1,
  })
  const end = performance.now() + seconds * 1000
  // The first fifth warms the code up.
  const countFrom = end - seconds * 800
  let requests = 0
  let before: NodeJS.CpuUsage | undefined
  const ask = async () => {
    const { body } = await pool.request({ path: '/', method: 'GET' })
    await body.dump()
    if (before) requests++
  }
  // One burst that counts at least: nothing counted would be a machine that bears nothing.
  while (performance.now() < end || requests === 0) {
    const began = performance.now()
    if (!before && began >= countFrom) before = process.cpuUsage()
    await Promise.all(
      Array.from({ length: CONNECTIONS }, async () => {
        for (let i = 0; i < BURST; i++) await ask()
      }),
    )
    await new Promise(pause => setTimeout(pause, performance.now() - began))
  }
  const used = process.cpuUsage(before)
  await pool.close()
  server.closeAllConnections()
  server.close()
  const cpuUsPerRequest = (used.user + used.system) / Math.max(1, requests)
  return { requests, cpuUsPerRequest, mostPerS: (SIGNAL_LIMITS.cpuShare * cores * 1e6) / Math.max(1, cpuUsPerRequest) }
}
