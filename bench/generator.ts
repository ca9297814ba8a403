/**
 * `generator`: CPU per request of a one-step round with expectation, timing and histograms, against a bare dispatch
 * loop over as many connections.
 */
import { Client, type Dispatcher } from 'undici'
import type { Step } from '../core/journey/journey'
import type { Target } from '../core/journey/target'
import { PLAIN } from '../core/client/client'
import { DIRECT } from '../core/network/profile'
import { HealthReader } from '../generator/users/health'
import { Load, NO_SUPPLIES } from '../generator/users/load'
import { openFrame } from '../protocol/frame'
import { CERTIFICATE } from './certificate'
import { benchDocument, LINE, step } from './document'
import { cpuMsOf, median, tell } from './measure'
import { startTarget } from './target'

const CONNECTIONS = 100

export async function benchGenerator(program: string, quick: boolean): Promise<void> {
  const { host, stop } = await startTarget(program)
  const lengthMs = quick ? 500 : 4000
  for (const { name, round, goal } of CASES) {
    await ours(host, 1500, round)
    await bare(host, 1500)
    const pairs: [number, number][] = []
    for (let i = 0; i < (quick ? 1 : 5); i++)
      pairs.push(
        i % 2
          ? [await ours(host, lengthMs, round), await bare(host, lengthMs)]
          : await bare(host, lengthMs).then(async b => [await ours(host, lengthMs, round), b] as [number, number]),
      )
    tell({
      bench: 'generator',
      case: name,
      value: median(pairs.map(p => p[0])),
      unit: 'µs CPU per request',
      reference: median(pairs.map(p => p[1])),
      ratio: median(pairs.map(([o, b]) => b / o)),
      goal: `≥ ${goal}`,
    })
  }
  stop()
  for (const secure of [false, true]) await shaped(program, secure, quick)
}

/** Users enough that requests come as thick with 40 ms between as without. */
const SHAPED_USERS = 600

/** The same users on a line of 5 Mbit/s and 40 ms, against themselves without: CPU per request. */
async function shaped(program: string, secure: boolean, quick: boolean): Promise<void> {
  const { host, stop } = await startTarget(program, secure)
  const target = secure ? { baseUrl: `https://${host}`, trust: CERTIFICATE } : {}
  const lengthMs = quick ? 700 : 4000
  const measure = (network: string, ms: number) =>
    ours(host, ms, [step({ think: { kind: 'fixed', ms: 60 } })], { users: SHAPED_USERS, network, target })
  for (const network of [DIRECT, LINE.id]) await measure(network, quick ? 300 : 1500)
  const pairs: [number, number][] = []
  for (let i = 0; i < (quick ? 1 : 5); i++)
    pairs.push(
      i % 2
        ? [await measure(LINE.id, lengthMs), await measure(DIRECT, lengthMs)]
        : await measure(DIRECT, lengthMs).then(async d => [await measure(LINE.id, lengthMs), d] as [number, number]),
    )
  tell({
    bench: 'generator',
    case: secure ? 'shaped https' : 'shaped http',
    value: median(pairs.map(p => p[0])),
    unit: 'µs CPU per request',
    reference: median(pairs.map(p => p[1])),
    ratio: median(pairs.map(([s, d]) => d / s)),
    goal: secure ? '≥ 0.5' : '≥ 0.65',
  })
  stop()
}

/** Three steps with a capture, two expectations, a template in URL and body, and cookies from the bench's target. */
const FULL: Step[] = [
  step({ name: 'first', url: '/journey/token', capture: [{ name: 'token', from: { kind: 'json', path: '$.token' } }] }),
  step({
    name: 'second',
    url: '/journey/modules?token={{token}}',
    expect: [
      { kind: 'status', allow: '200' },
      { kind: 'body', rule: 'contains', value: 'modules' },
    ],
  }),
  step({
    name: 'third',
    method: 'POST',
    url: '/journey/enrol',
    body: { kind: 'json', text: '{"token":"{{token}}","user":{{user.number}}}' },
    expect: [
      { kind: 'status', allow: '200' },
      { kind: 'json', path: '$.ok', rule: 'equals', value: 'true' },
    ],
  }),
]

const CASES = [
  { name: 'one step', round: [step()], goal: '0.95' },
  { name: 'full journey', round: FULL, goal: '0.70' },
]

/** @returns µs of CPU per request */
async function ours(
  host: string,
  lengthMs: number,
  round: Step[],
  { users = CONNECTIONS, network = DIRECT as string, target = {} as Partial<Target> } = {},
): Promise<number> {
  const health = new HealthReader({
    hostname: '',
    platform: '',
    node: '',
    cores: 1,
    memoryBytes: 2 ** 34,
    descriptors: 1e6,
  })
  const document = benchDocument(host, round, {}, target)
  let requests = 0
  const cpuMs = await cpuMsOf(
    () =>
      new Promise<void>((finished) => {
        new Load(
          {
            runId: '1',
            document,
            incarnation: 1,
            worker: 0,
            leaveMs: 1000,
            health,
            supplies: NO_SUPPLIES,
            onExemplar() {
              /* thrown away */
            },
            onFinished: () => finished(),
            onFrame: ({ bytes }) => {
              requests = openFrame(bytes).top.claims.right
            },
            slice: {
              users: Array.from({ length: users }, (_, i) => ({
                group: 0,
                number: i + 1,
                firstSeries: 0,
                client: PLAIN,
                network,
                stays: [{ startMs: 0, stopMs: lengthMs }],
              })),
              arrivals: [],
            },
          },
          performance.now(),
        ).run()
      }),
  )
  health.stop()
  return (cpuMs * 1000) / requests
}

/** @returns µs of CPU per request */
async function bare(host: string, lengthMs: number): Promise<number> {
  let requests = 0
  const clients = Array.from(
    { length: CONNECTIONS },
    () => new Client(`http://${host}`, { pipelining: 1, headersTimeout: 0, bodyTimeout: 0 }),
  )
  const cpuMs = await cpuMsOf(async () => {
    const end = performance.now() + lengthMs
    await Promise.all(
      clients.map(
        client =>
          new Promise<void>((done) => {
            const options = {
              path: '/',
              method: 'GET' as const,
              headers: ['user-agent', 'Vornak', 'vornak-run', '1', 'vornak-step', 'get'],
            }
            const handler: Dispatcher.DispatchHandler = {
              onConnect() {
                /* nothing */
              },
              onHeaders: () => true,
              onData: () => true,
              onComplete() {
                requests++
                if (performance.now() < end) client.dispatch(options, handler)
                else done()
              },
              onError(error) {
                throw error
              },
            }
            client.dispatch(options, handler)
          }),
      ),
    )
  })
  await Promise.all(clients.map(c => c.destroy()))
  return (cpuMs * 1000) / requests
}
