/**
 * Exchanges against a real server that behaves in every wrong way: each outcome has its kind, and says whether the
 * target can have seen it.
 */
import { createServer, type Server } from 'node:http'
import { createServer as createTcp, type AddressInfo, type Server as TcpServer } from 'node:net'
import { approvedConnector } from '../../generator/exchange/approved-connector'
import { classify } from '../../generator/exchange/classify'
import type { Outcome, PreparedRequest } from '../../generator/exchange/exchange'
import { UndiciExchange } from '../../generator/exchange/undici-exchange'
import { LoadedAnswer } from '../../generator/journey/loaded-answer'
import { prepareJourney } from '../../generator/journey/prepare-journey'
import { journey, step, target } from '../build/plans'

let server: Server
let rude: TcpServer
const seen: { url: string, headers: Record<string, unknown>, body: string }[] = []
const listen = (s: Server | TcpServer) =>
  new Promise<string>(r => s.listen(0, '127.0.0.1', () => r(`127.0.0.1:${(s.address() as AddressInfo).port}`)))
let good = ''
let bad = ''

beforeAll(async () => {
  server = createServer((request, response) => {
    let body = ''
    request.on('data', (chunk: Buffer) => {
      body += chunk.toString()
    })
    request.on('end', () => {
      seen.push({ url: request.url!, headers: request.headers, body })
      if (request.url === '/slow') return void setTimeout(() => response.end('late'), 3000).unref()
      if (request.url === '/half') return void response.writeHead(200, { 'content-length': 100 }).write('half')
      response.statusCode = request.url === '/teapot' ? 418 : 200
      response.end('{"seats":3}')
    })
  })
  rude = createTcp(socket => socket.once('data', () => socket.destroy()))
  good = await listen(server)
  bad = await listen(rude)
})
afterAll(async () => {
  server.closeAllConnections()
  await Promise.all([new Promise(r => server.close(r)), new Promise(r => rude.close(r))])
})

const sockets = {
  open: 0,
  opened() {
    this.open++
  },
  closed() {
    this.open--
  },
}
function exchangeWith(hosts: string[]) {
  let ended: (o: Outcome) => void = () => {
    /* set for each request */
  }
  const exchange = new UndiciExchange(
    approvedConnector({ hosts: new Set(hosts), count: sockets }),
    { sessions: new Map() },
    false,
    o => ended({ ...o }),
  )
  return {
    exchange,
    send: (origin: string, path: string, over: Partial<PreparedRequest> = {}) =>
      new Promise<Outcome>((resolve) => {
        ended = resolve
        exchange.send({
          origin: `http://${origin}`,
          path,
          method: 'GET',
          headers: [],
          body: undefined,
          timeoutMs: 2000,
          keepBytes: 0,
          needsWhole: false,
          ...over,
        })
      }),
  }
}

describe('an exchange', () => {
  it('tells status, bytes, body where it is wanted, and the time to connect only for the first', async () => {
    const { send, exchange } = exchangeWith([good])
    const first = { ...(await send(good, '/x', { keepBytes: 1000 })) }
    expect(first).toMatchObject({ status: 200, bytes: 11, failure: undefined })
    expect(new LoadedAnswer().of(first).json()).toEqual({ seats: 3 })
    expect(first.connectMs).toBeGreaterThan(0)
    expect(first.endedAt).toBeGreaterThanOrEqual(first.firstByteAt)
    const second = await send(good, '/teapot')
    expect(second).toMatchObject({ status: 418, connectMs: -1, failure: undefined })
    exchange.close()
  })

  it('times out at its limit, not before; what was sent may have been seen', async () => {
    const { send, exchange } = exchangeWith([good])
    const outcome = await send(good, '/slow', { timeoutMs: 150 })
    expect(outcome).toMatchObject({ failure: 'timeout', reach: 'unclear' })
    expect(outcome.endedAt - outcome.beganAt).toBeGreaterThanOrEqual(150)
    expect(await send(good, '/half', { timeoutMs: 100 })).toMatchObject({ failure: 'timeout', reach: 'sent' })
    expect(await send(good, '/x')).toMatchObject({ status: 200, failure: undefined })
    exchange.close()
  })

  it.each([
    ['a refused connection', () => '127.0.0.1:9', 'refused', 'neverSent'],
    ['a broken connection', () => bad, 'reset', 'unclear'],
    ['a name nobody has', () => 'nowhere.invalid:80', 'nameLookup', 'neverSent'],
  ])('names %s', async (_, host, failure, reach) => {
    const { send, exchange } = exchangeWith([host()])
    expect(await send(host(), '/')).toMatchObject({ failure, reach })
    exchange.close()
  })

  it('may be followed by the next at once, when no connection could be made too', async () => {
    const failures: (string | undefined)[] = []
    await new Promise<void>((resolve) => {
      const again = () => {
        if (failures.length === 3) return resolve()
        exchange.send({
          origin: 'http://127.0.0.1:9',
          path: '/',
          method: 'GET',
          headers: [],
          body: undefined,
          timeoutMs: 2000,
          keepBytes: 0,
          needsWhole: false,
        })
      }
      const exchange = new UndiciExchange(
        approvedConnector({ hosts: new Set(['127.0.0.1:9']), count: sockets }),
        { sessions: new Map() },
        false,
        ({ failure }) => {
          failures.push(failure)
          again()
        },
      )
      again()
    })
    expect(failures).toEqual(['refused', 'refused', 'refused'])
  })

  it('never leaves for a host that is not approved', async () => {
    const before = seen.length
    const { send, exchange } = exchangeWith(['127.0.0.1:9'])
    expect(await send(good, '/')).toMatchObject({
      failure: 'notApproved',
      reach: 'neverSent',
      problem: expect.stringContaining('not among the approved hosts'),
    })
    expect(seen.length).toBe(before)
    exchange.close()
  })

  it('that is cut says nothing more', async () => {
    let outcomes = 0
    const exchange = new UndiciExchange(
      approvedConnector({ hosts: new Set([good]), count: sockets }),
      { sessions: new Map() },
      false,
      () => {
        outcomes++
      },
    )
    exchange.send({
      origin: `http://${good}`,
      path: '/slow',
      method: 'GET',
      headers: [],
      body: undefined,
      timeoutMs: 100,
      keepBytes: 0,
      needsWhole: false,
    })
    await new Promise(r => setImmediate(r))
    exchange.cut()
    const other = exchangeWith([good])
    await other.send(good, '/slow', { timeoutMs: 200 })
    other.exchange.close()
    expect(outcomes).toBe(0)
  })

  it('closes its sockets', async () => {
    const { send, exchange } = exchangeWith([good])
    await send(good, '/x')
    expect(sockets.open).toBeGreaterThan(0)
    exchange.close()
    while (sockets.open > 0) await new Promise(r => setImmediate(r))
    expect(sockets.open).toBe(0)
  })
})

describe('failures by their codes', () => {
  it.each([
    ['ENOTFOUND', false, 'nameLookup', 'neverSent'],
    ['EAI_AGAIN', false, 'nameLookup', 'neverSent'],
    ['ECONNREFUSED', false, 'refused', 'neverSent'],
    ['ECONNRESET', true, 'reset', 'unclear'],
    ['ECONNRESET', false, 'reset', 'neverSent'],
    ['CERT_HAS_EXPIRED', false, 'tls', 'neverSent'],
    ['DEPTH_ZERO_SELF_SIGNED_CERT', false, 'tls', 'neverSent'],
    ['ETIMEDOUT', false, 'timeout', 'neverSent'],
    ['ESOMETHING', true, 'other', 'unclear'],
  ])('%s, on a socket: %s → %s, %s', (code, onSocket, failure, reach) => {
    expect(classify({ code }, onSocket)).toEqual({ failure, reach })
  })
})

describe('a prepared request', () => {
  it('carries the marks by which the owner recognises it, and the step’s own headers first', () => {
    const prepared = prepareJourney(
      journey({
        round: [
          step({
            name: 'Enrol & pay',
            method: 'POST',
            url: '/enrol?x=1',
            body: { kind: 'json', text: '{}' },
            headers: [['User-Agent', 'mine']],
          }),
        ],
      }),
      {
        target: target({ baseUrl: 'http://a.test:81' }),
        secrets: {},
        marking: { runId: '7', rehearsal: true },
        feeds: [],
        files: new Map(),
        exemplarBytes: 0,
      },
    )
    const r = prepared.round[0]!.parts[0]!.fixed!
    expect(r).toMatchObject({ origin: 'http://a.test:81', path: '/enrol?x=1', method: 'POST', body: '{}' })
    expect(
      Object.fromEntries(
        Array.from({ length: r.headers.length / 2 }, (_, i) => [r.headers[2 * i], r.headers[2 * i + 1]]),
      ),
    ).toEqual({
      'User-Agent': 'mine',
      'vornak-run': '7',
      'vornak-step': 'Enrol%20%26%20pay',
      'vornak-rehearsal': '1',
      'content-type': 'application/json',
    })
  })
})
