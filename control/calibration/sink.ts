/**
 * The built-in sink: a program beside Vornak that answers as the journeys' recorded answers were, while a batch of
 * calibrations goes on.
 */
import { spawn } from 'node:child_process'
import { createInterface } from 'node:readline'
import type { ExchangeRecord } from '../../core/journey/exchange-record'
import { ControlError } from '../errors'

export interface Sink {
  address: string
  stop(): void
}

/** Of the connection, not of the answer. */
const NOT_REPLAYED = new Set([
  'connection',
  'keep-alive',
  'transfer-encoding',
  'content-length',
  'content-encoding',
  'date',
  'alt-svc',
  'strict-transport-security',
  'trailer',
  'upgrade',
])
/** It must say where it listens by then, ms. */
const START_MS = 15_000

/**
 * @param program its file @param records one pass of each journey, as tried @throws ControlError when it does not start
 */
export async function startSink(program: string, records: readonly ExchangeRecord[], onEnd: () => void): Promise<Sink> {
  const child = spawn(process.execPath, [program], {
    stdio: ['pipe', 'pipe', 'inherit'],
    env: { PATH: process.env.PATH ?? '' },
  })
  const lines = createInterface({ input: child.stdout })
  child.stdin.on('error', () => {
    /* its end is told below */
  })
  const listening = new Promise<{ port: number }>((resolve, reject) => {
    const gone = () =>
      reject(
        new ControlError(
          'sink',
          500,
          'The built-in sink has ended.',
          'Start the calibration again; see the console of the server.',
        ),
      )
    child.once('exit', gone)
    lines.once('line', (line) => {
      child.off('exit', gone)
      // Its program is ours and says this first.
      resolve(JSON.parse(line) as { port: number })
    })
  })
  child.on('error', onEnd)
  child.on('exit', onEnd)
  child.stdin.write(`${JSON.stringify({ answers: records.flatMap(answersOf) })}\n`)
  const late = setTimeout(() => child.kill('SIGKILL'), START_MS)
  const { port } = await listening.finally(() => clearTimeout(late))
  return {
    address: `http://127.0.0.1:${port}`,
    stop() {
      child.off('exit', onEnd)
      child.stdin.end()
    },
  }
}

/** What the sink answers to one recorded request, and to those that redirected before it. */
function answersOf({ request, answer, hops, timings }: ExchangeRecord) {
  if (!answer) return []
  const headers = answer.headers
    .filter(([name]) => !NOT_REPLAYED.has(name.toLowerCase()))
    .map(([name, value]): [string, string] => [name, name.toLowerCase() === 'location' ? pathOf(value) : value])
  // Time of the server alone: what the way took, the generator's own way takes again.
  const waitMs = Math.max(
    0,
    timings.firstByteMs - Math.max(0, timings.lookupMs) - Math.max(0, timings.connectMs) - Math.max(0, timings.tlsMs),
  )
  const last = hops.at(-1)
  const delayMs = waitMs / (hops.length + 1)
  return [
    ...hops.map(h => ({
      method: request.method,
      path: new URL(h.url).pathname,
      status: h.status,
      headers: [['location', pathOf(h.to)]],
      body: '',
      bytes: 0,
      delayMs,
    })),
    {
      method: last && last.status !== 307 && last.status !== 308 ? 'GET' : request.method,
      path: new URL(last?.to ?? request.url, request.url).pathname,
      status: answer.status,
      headers,
      body: answer.body,
      bytes: answer.bytes,
      delayMs,
    },
  ]
}

function pathOf(address: string): string {
  try {
    const { pathname, search } = new URL(address)
    return pathname + search
  }
  catch {
    return address
  }
}
