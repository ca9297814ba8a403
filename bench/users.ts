/**
 * `users`: kB of memory per user with a connection of its own and 1 s of think time, against a bare client-per-user
 * loop. Each in a process of its own.
 */
import { spawn } from 'node:child_process'
import { Client, type Dispatcher } from 'undici'
import { PLAIN } from '../core/client/client'
import { DIRECT } from '../core/network/profile'
import { HealthReader } from '../generator/users/health'
import { Load, NO_SUPPLIES } from '../generator/users/load'
import { tell } from './measure'
import { benchDocument, LINE, step } from './document'
import { startTarget } from './target'

/** Time for everybody to have connected and gone round a few times, ms. */
const SETTLE_MS = 6000

export async function benchUsers(program: string, quick: boolean): Promise<void> {
  const { host, stop } = await startTarget(program)
  for (const users of quick ? [100] : [1000, 5000]) {
    const reference = await inProcess(program, ['users-bare', host, String(users), String(quick ? 1500 : SETTLE_MS)])
    const value = await inProcess(program, ['users-ours', host, String(users), String(quick ? 1500 : SETTLE_MS)])
    const shaped = await inProcess(program, [
      'users-ours',
      host,
      String(users),
      String(quick ? 1500 : SETTLE_MS),
      'shaped',
    ])
    tell({
      bench: 'users',
      case: `plain, ${users} users`,
      value,
      unit: 'kB per user',
      reference,
      ratio: value / reference,
      goal: '≤ 1.1',
    })
    tell({
      bench: 'users',
      case: `shaped, ${users} users`,
      value: shaped,
      unit: 'kB per user',
      reference,
      ratio: shaped / reference,
      goal: '≤ 2',
    })
  }
  stop()
}

function inProcess(program: string, args: string[]): Promise<number> {
  const child = spawn(process.execPath, ['--expose-gc', '--max-semi-space-size=1', program, ...args], {
    stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
  })
  return new Promise((resolve, reject) => {
    child.once('message', m => resolve((m as { kb: number }).kb))
    child.once('exit', code => reject(new Error(`${args[0]} ended with ${code}`)))
  })
}

/**
 * Resident memory after a collection, kB. The nursery of new objects is kept small in both processes: its 16 MB and
 * more would drown what is measured.
 */
function residentKb(): number {
  globalThis.gc!()
  globalThis.gc!()
  return process.memoryUsage().rss / 1024
}

/** In a process of its own: tells its parent what one user costs. */
export async function usersOurs(host: string, users: number, settleMs: number, shaped: boolean): Promise<void> {
  const health = new HealthReader({
    hostname: '',
    platform: '',
    node: '',
    cores: 1,
    memoryBytes: 2 ** 34,
    descriptors: 1e6,
  })
  const document = benchDocument(host, [step({ think: { kind: 'fixed', ms: 1000 } })])
  const before = residentKb()
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
      onFinished() {
        /* ended before */
      },
      onFrame() {
        /* thrown away */
      },
      slice: {
        users: Array.from({ length: users }, (_, i) => ({
          group: 0,
          number: i + 1,
          firstSeries: 0,
          network: shaped ? LINE.id : DIRECT,
          client: PLAIN,
          stays: [{ startMs: (i * 2000) / users, stopMs: 600_000 }],
        })),
        arrivals: [],
      },
    },
    performance.now(),
  ).run()
  setTimeout(() => process.send!({ kb: (residentKb() - before) / users }, () => process.exit(0)), settleMs)
}

export async function usersBare(host: string, users: number, settleMs: number): Promise<void> {
  const before = residentKb()
  const options = {
    path: '/',
    method: 'GET' as const,
    headers: ['user-agent', 'Vornak', 'vornak-run', '1', 'vornak-step', 'get'],
  }
  for (let i = 0; i < users; i++)
    setTimeout(
      () => {
        const client = new Client(`http://${host}`, {
          pipelining: 1,
          headersTimeout: 0,
          bodyTimeout: 0,
          keepAliveTimeout: 600_000,
        })
        const handler: Dispatcher.DispatchHandler = {
          onConnect() {
            /* nothing */
          },
          onHeaders: () => true,
          onData: () => true,
          onComplete: () => void setTimeout(() => client.dispatch(options, handler), 1000),
          onError(error) {
            throw error
          },
        }
        client.dispatch(options, handler)
      },
      (i * 2000) / users,
    )
  setTimeout(() => process.send!({ kb: (residentKb() - before) / users }, () => process.exit(0)), settleMs)
}
