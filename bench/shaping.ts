/**
 * `shaping`: how far the time of a transfer through the shaper is from the formula, as a part of what is allowed: 5 %
 * (10 % with loss, on the mean) or 1.5 ms. What the same fetch takes without a network (connecting, the target's own
 * time) is measured beside it and counted with the formula.
 */
import { fetchMs } from '../core/network/expected'
import type { NetworkProfile } from '../core/network/profile'
import { seededRandom } from '../core/random/seeded'
import { approvedConnector } from '../generator/exchange/approved-connector'
import type { Outcome } from '../generator/exchange/exchange'
import { UndiciExchange } from '../generator/exchange/undici-exchange'
import { UserNetwork } from '../generator/shaper/user-network'
import { CERTIFICATE } from './certificate'
import { median, tell } from './measure'
import { startTarget } from './target'

const LEAST_ALLOWED_MS = 1.5

interface Case {
  name: string
  profile: Omit<NetworkProfile, 'id' | 'name'>
  bytes: number
  times: number
  secure?: boolean
}

const CASES: readonly Case[] = [
  { name: 'latency', profile: { latencyMs: 40, jitterMs: 0, loss: 0 }, bytes: 100, times: 30 },
  { name: 'latency, 1 MB', profile: { latencyMs: 40, jitterMs: 0, loss: 0 }, bytes: 1_000_000, times: 10 },
  { name: 'bandwidth', profile: { latencyMs: 40, jitterMs: 0, loss: 0, downBps: 5e6 }, bytes: 1_000_000, times: 5 },
  {
    name: 'bandwidth, https',
    profile: { latencyMs: 40, jitterMs: 0, loss: 0, downBps: 5e6 },
    bytes: 1_000_000,
    times: 5,
    secure: true,
  },
  { name: 'jitter', profile: { latencyMs: 60, jitterMs: 15, loss: 0 }, bytes: 100, times: 200 },
  { name: 'loss', profile: { latencyMs: 30, jitterMs: 0, loss: 0.01 }, bytes: 400_000, times: 200 },
  { name: 'all', profile: { latencyMs: 40, jitterMs: 0, loss: 0.005, downBps: 12e6 }, bytes: 1_000_000, times: 100 },
]

export async function benchShaping(program: string, quick: boolean): Promise<void> {
  for (const secure of [false, true]) {
    const { host, stop } = await startTarget(program, secure)
    const connector = approvedConnector({
      hosts: new Set([host]),
      count: {
        opened() {
          /* not counted */
        },
        closed() {
          /* not counted */
        },
      },
      trust: CERTIFICATE,
    })
    /** A fetch over a new connection, ms. */
    const fetch = (profile: NetworkProfile | undefined, bytes: number, seed: number) =>
      new Promise<number>((resolve) => {
        const network = profile && new UserNetwork(profile, seededRandom(seed))
        const exchange = new UndiciExchange(connector, { sessions: new Map(), network }, false, (outcome: Outcome) => {
          resolve(outcome.endedAt - outcome.beganAt)
          setImmediate(() => exchange.close())
        })
        exchange.send({
          origin: `${secure ? 'https' : 'http'}://${host}`,
          path: `/bytes/${bytes}`,
          method: 'GET',
          headers: [],
          body: undefined,
          timeoutMs: 60_000,
          keepBytes: 0,
          needsWhole: false,
        })
      })
    const warm: NetworkProfile = { id: 'w', name: 'w', latencyMs: 1, jitterMs: 0, loss: 0 }
    for (let i = 0; i < 20; i++) await fetch(warm, 1_000_000, i)
    for (const c of CASES.filter(x => (x.secure ?? false) === secure)) {
      const profile: NetworkProfile = { id: 'c', name: c.name, ...c.profile }
      const times = quick ? 2 : c.times
      const bare: number[] = []
      for (let i = 0; i < 10; i++) bare.push(await fetch(undefined, 100, i))
      let next = 0
      const measured: number[] = []
      await Promise.all(
        Array.from({ length: Math.min(4, times) }, async () => {
          while (next < times) measured.push(await fetch(profile, c.bytes, ++next))
        }),
      )
      const value = measured.reduce((a, b) => a + b, 0) / measured.length
      const reference = fetchMs(profile, 0, c.bytes, secure) + median(bare)
      const allowed = Math.max(LEAST_ALLOWED_MS, reference * (profile.loss > 0 ? 0.1 : 0.05))
      tell({
        bench: 'shaping',
        case: c.name,
        value,
        unit: 'ms',
        reference,
        ratio: Math.abs(value - reference) / allowed,
        goal: '≤ 1',
      })
    }
    stop()
  }
}
