/**
 * Stand-in for a target: answers each request as a recorded one was answered, in status, headers, body and delay, and
 * has no other limits of its own. Reads its answers as one line of JSON, says where it listens, and ends with its
 * standard input.
 */
import { createServer, type ServerResponse } from 'node:http'
import { createInterface } from 'node:readline'

export interface SinkAnswer {
  method: string
  path: string
  status: number
  headers: [string, string][]
  body: string
  bytes: number
  delayMs: number
}

const lines = createInterface({ input: process.stdin })
lines.on('close', () => process.exit(0))
lines.once('line', (line) => {
  // The program that started this one writes these.
  const answers = (JSON.parse(line) as { answers: SinkAnswer[] }).answers.map(a => ({ ...a, content: contentOf(a) }))
  const byPlace = new Map<string, typeof answers>()
  for (const answer of answers) {
    const key = `${answer.method} ${answer.path}`
    byPlace.set(key, [...(byPlace.get(key) ?? []), answer])
  }
  let turn = 0
  const server = createServer((request, response) => {
    const path = (request.url ?? '/').split('?')[0]!
    const same =
      byPlace.get(`${request.method} ${path}`) ??
      byPlace.get(nearest(`${request.method} ${path}`, [...byPlace.keys()]) ?? '')
    request.resume()
    request.on('end', () => {
      if (!same)
        return void response.writeHead(404, { 'content-type': 'text/plain' }).end('nothing was recorded for this')
      const answer = same[turn++ % same.length]!
      if (answer.delayMs < 1) return send(response, answer)
      setTimeout(() => send(response, answer), answer.delayMs)
    })
  })
  // Idle connections belong to users who think.
  server.keepAliveTimeout = 600_000
  server.listen(0, '127.0.0.1', 4096, () =>
    // It listens on a port.
    process.stdout.write(`${JSON.stringify({ port: (server.address() as { port: number }).port })}\n`),
  )
})

function send(response: ServerResponse, { status, headers, content }: SinkAnswer & { content: Buffer }): void {
  response.writeHead(status, [...headers.flat(), 'content-length', String(content.length)]).end(content)
}

/** A body that was kept in part is filled up to its length. */
function contentOf({ body, bytes }: SinkAnswer): Buffer {
  const kept = Buffer.from(body)
  return kept.length >= bytes ? kept : Buffer.concat([kept, Buffer.alloc(bytes - kept.length, 32)])
}

/** The recorded place that shares the most path parts: addresses made from values differ from pass to pass. */
function nearest(place: string, known: readonly string[]): string | undefined {
  const parts = place.split(/[ /]/)
  let best: string | undefined
  let most = 1
  for (const key of known) {
    const other = key.split(/[ /]/)
    if (other[0] !== parts[0] || other.length !== parts.length) continue
    const shared = other.filter((p, i) => p === parts[i]).length
    if (shared > most) {
      most = shared
      best = key
    }
  }
  return best
}
