/**
 * The shaper on real connections: what a user feels is what the formulas say, over HTTP and HTTPS, both ways, and
 * nobody else notices.
 */
import { createServer } from 'node:http'
import { createServer as createSecure } from 'node:https'
import { createSecureServer as createHttp2 } from 'node:http2'
import type { AddressInfo } from 'node:net'
import { connectMs, feltRttMs, fetchMs, transferMs } from '../../core/network/expected'
import type { NetworkProfile } from '../../core/network/profile'
import { seededRandom } from '../../core/random/seeded'
import { approvedConnector, type Connector } from '../../generator/exchange/approved-connector'
import type { Outcome, PreparedRequest } from '../../generator/exchange/exchange'
import { UndiciExchange } from '../../generator/exchange/undici-exchange'
import { UserNetwork } from '../../generator/shaper/user-network'
import { CERTIFICATE, KEY } from '../../bench/certificate'
import { exactly, timed } from '../build/timed'

const body = Buffer.alloc(1_000_000, 'x')
const answer: Parameters<typeof createServer>[1] = (request, response) => {
  let received = 0
  request.on('data', (c: Buffer) => {
    received += c.length
  })
  request.on('end', () => {
    if (request.method === 'POST') response.end(String(received))
    else response.end(body.subarray(0, Number(request.url!.slice(1))))
  })
}

const plain = createServer(answer)
const secure = createSecure({ key: KEY, cert: CERTIFICATE }, answer)
const addressOf = (server: typeof plain | typeof secure) => `127.0.0.1:${(server.address() as AddressInfo).port}`
beforeAll(async () => {
  for (const s of [plain, secure]) {
    await new Promise<void>(done => s.listen(0, '127.0.0.1', done))
    // Cold code would be measured, not the network.
    for (let i = 0; i < 5; i++) {
      const u = user(s, profile({ latencyMs: 1 }))
      await u.ask('/1000000')
      u.close()
    }
  }
})
afterAll(() => {
  for (const s of [plain, secure]) s.close()
})

const profile = (over: Partial<NetworkProfile> = {}): NetworkProfile => ({
  id: 'p',
  name: 'p',
  latencyMs: 40,
  jitterMs: 0,
  loss: 0,
  ...over,
})
const nobody = {
  opened() {
    /* not counted */
  },
  closed() {
    /* not counted */
  },
}

const connectors = new Map<string, Connector>()

/** A user on a network: asks one after the other over its own connection. */
function user(server: typeof plain | typeof secure, network: NetworkProfile | undefined, seed = 1) {
  const host = addressOf(server)
  const scheme = server === secure ? 'https' : 'http'
  let ended: (o: Outcome) => void = () => {
    /* set below */
  }
  const visitor = { sessions: new Map(), network: network && new UserNetwork(network, seededRandom(seed)) }
  let connector = connectors.get(host)
  if (!connector)
    connectors.set(host, (connector = approvedConnector({ hosts: new Set([host]), count: nobody, trust: CERTIFICATE })))
  const exchange = new UndiciExchange(connector, visitor, false, o => ended({ ...o, chunks: [...o.chunks] }))
  return {
    ask: (path: string, over: Partial<PreparedRequest> = {}) =>
      new Promise<Outcome>((resolve) => {
        ended = resolve
        exchange.send({
          origin: `${scheme}://${host}`,
          path,
          method: 'GET',
          headers: [],
          body: undefined,
          timeoutMs: 30_000,
          keepBytes: 100,
          needsWhole: false,
          ...over,
        })
      }),
    close: () => exchange.close(),
  }
}
/** Allowed: the larger of 5 % and a few ms of a busy machine's timers. */
const near = (measured: number, expected: number) => {
  expect(measured).toBeGreaterThan(expected - 3)
  expect(measured).toBeLessThan(expected * 1.05 + 12)
}

describe('a shaped user', () => {
  for (const [name, server, trips] of [
    ['http', plain, 1],
    ['https', secure, 2],
  ] as const) {
    timed(
      `connects over ${name} in its round trips (RFC 9293 one, RFC 8446 one more), and waits one more for an answer`,
      async () => {
        const tries: [connect: number, first: number, again: number][] = []
        for (let i = 0; i < 4; i++) {
          const u = user(server, profile({ latencyMs: 60 }))
          const first = await u.ask('/100')
          const again = await u.ask('/100')
          await exactly(() => expect(again.connectMs).toBe(-1))
          tries.push([first.connectMs, first.firstByteAt - first.beganAt, again.endedAt - again.beganAt])
          u.close()
        }
        // The least of a few: a machine with other things to do makes any of them longer, nothing makes them shorter.
        const least = (which: 0 | 1 | 2) => Math.min(...tries.map(t => t[which]))
        near(least(0), connectMs(profile({ latencyMs: 60 }), 0, trips === 2))
        near(least(1), 60 * (trips + 1))
        near(least(2), 60)
      },
      10_000,
    )
  }

  for (const [name, server] of [
    ['http', plain],
    ['https', secure],
  ] as const) {
    timed(`fetches 100 kB and 1 MB over ${name} as slow start and bandwidth let it`, async () => {
      const p = profile({ downBps: 20e6 })
      for (const bytes of [100_000, 1_000_000]) {
        const times: number[] = []
        for (let i = 0; i < 3; i++) {
          const u = user(server, p)
          const got = await u.ask(`/${bytes}`)
          await exactly(() => expect(got).toMatchObject({ status: 200, bytes }))
          times.push(got.endedAt - got.beganAt)
          u.close()
        }
        near(Math.min(...times), fetchMs(p, 0.2, bytes, server === secure))
      }
    }, 10_000)
  }

  timed('sends up as slowly as its line lets it, and everything arrives', async () => {
    const p = profile({ latencyMs: 10, upBps: 4e6 })
    const u = user(plain, p)
    const got = await u.ask('/', { method: 'POST', body: Buffer.alloc(200_000, 'y') })
    await exactly(() => expect(Buffer.concat(got.chunks).toString()).toBe('200000'))
    near(got.endedAt - got.beganAt, feltRttMs(p, 0) * 2 + (200_000 * 8000) / 4e6)
    u.close()
  }, 10_000)

  timed('shares its line among its own connections, not with others', async () => {
    const p = profile({ latencyMs: 4, downBps: 8e6 })
    const host = addressOf(plain)
    const network = new UserNetwork(p, seededRandom(3))
    const exchanges = [1, 2].map(
      () =>
        new Promise<number>((resolve) => {
          const began = performance.now()
          const exchange = new UndiciExchange(
            approvedConnector({ hosts: new Set([host]), count: nobody }),
            { sessions: new Map(), network },
            false,
            () => {
              resolve(performance.now() - began)
              exchange.close()
            },
          )
          exchange.send({
            origin: `http://${host}`,
            path: '/500000',
            method: 'GET',
            headers: [],
            body: undefined,
            timeoutMs: 30_000,
            keepBytes: 0,
            needsWhole: false,
          })
        }),
    )
    const other = user(plain, p)
    const [together, alone] = await Promise.all([
      Promise.all(exchanges),
      other.ask('/500000').then(o => o.endedAt - o.beganAt),
    ])
    near(Math.max(...together), 8 + (1_000_000 * 8000) / 8e6)
    near(alone, 8 + (500_000 * 8000) / 8e6)
    other.close()
  }, 10_000)

  timed('loses packets: the mean of many fetches is near the expectation', async () => {
    const p = profile({ latencyMs: 20, loss: 0.02 })
    const times: number[] = []
    for (let batch = 0; batch < 6; batch++) {
      times.push(
        ...(await Promise.all(
          Array.from({ length: 10 }, async (_, i) => {
            const u = user(plain, p, batch * 10 + i + 1)
            const got = await u.ask('/200000')
            u.close()
            return got.endedAt - got.firstByteAt
          }),
        )),
      )
    }
    const mean = times.reduce((a, b) => a + b, 0) / times.length
    const expected = transferMs(p, 0.2, 200_000)
    expect(mean).toBeGreaterThan(expected * 0.75)
    expect(mean).toBeLessThan(expected * 1.25)
  }, 30_000)

  timed('does not hold up those who are not shaped', async () => {
    const shaped = user(plain, profile({ latencyMs: 300, downBps: 1e6 }))
    const slow = shaped.ask('/100000')
    const direct = user(plain, undefined)
    const times: number[] = []
    for (let i = 0; i < 20; i++) times.push(await direct.ask('/1000').then(o => o.endedAt - o.beganAt))
    expect(times.sort((a, b) => a - b)[10]).toBeLessThan(10)
    await slow
    direct.close()
    shaped.close()
  }, 10_000)

  timed('speaks HTTP/2 over its line as well', async () => {
    const server = createHttp2({ key: KEY, cert: CERTIFICATE, allowHTTP1: false }, (_, response) => response.end('ok'))
    await new Promise<void>(done => server.listen(0, '127.0.0.1', done))
    const host = `127.0.0.1:${(server.address() as AddressInfo).port}`
    const connector = approvedConnector({ hosts: new Set([host]), count: nobody, trust: CERTIFICATE, http2: true })
    const p = profile({ latencyMs: 50 })
    let ended: (o: Outcome) => void = () => {
      /* set below */
    }
    const exchange = new UndiciExchange(
      connector,
      { sessions: new Map(), network: new UserNetwork(p, seededRandom(1)) },
      true,
      o => ended({ ...o }),
    )
    const ask = () =>
      new Promise<Outcome>((resolve) => {
        ended = resolve
        exchange.send({
          origin: `https://${host}`,
          path: '/',
          method: 'GET',
          headers: [],
          body: undefined,
          timeoutMs: 10_000,
          keepBytes: 0,
          needsWhole: false,
        })
      })
    await ask()
    const again = await ask()
    exchange.close()
    server.close()
    await exactly(() => expect(again).toMatchObject({ status: 200, bytes: 2, connectMs: -1 }))
    near(again.endedAt - again.beganAt, 50)
  }, 10_000)

  it('is given up like any other: a time-out ends it, cutting it leaves nothing behind', async () => {
    const u = user(plain, profile({ latencyMs: 500 }))
    const got = await u.ask('/10', { timeoutMs: 200 })
    expect(got).toMatchObject({ failure: 'timeout', reach: 'neverSent' })
    u.close()
  })
})
