/**
 * What goes over the wire besides plain HTTP/1.1: TLS with an authority of the target's own, HTTP/2 where it is
 * offered, forms in parts, answers without end, redirects that lead away.
 */
import { createServer, type IncomingMessage, type Server } from 'node:http'
import { createSecureServer, type Http2SecureServer } from 'node:http2'
import { createServer as createTlsServer, type Server as HttpsServer } from 'node:https'
import type { AddressInfo } from 'node:net'
import { brotliCompressSync, gzipSync } from 'node:zlib'
import { Response } from 'undici'
import type { ExchangeRecord } from '../../core/journey/exchange-record'
import type { HttpJourney, RequestStep } from '../../core/journey/journey'
import { HealthReader } from '../../generator/users/health'
import { NO_SUPPLIES, type Supplies } from '../../generator/users/load'
import { tryJourneys } from '../../generator/users/try-journeys'
import { CERTIFICATE, KEY } from '../../bench/certificate'
import { journey, runDocument, plan, step, target } from '../build/plans'

const health = new HealthReader({
  hostname: '',
  platform: '',
  node: '',
  cores: 1,
  memoryBytes: 2 ** 33,
  descriptors: 1000,
})
let plain: Server
let foreign: Server
let https: HttpsServer
let http2: Http2SecureServer
let resumed = 0
let foreignAsked = 0
let under = 0
let most = 0
const sockets = new Set<object>()
const seen: { version: string, type: string, body: Buffer }[] = []
const port = (s: Server | HttpsServer | Http2SecureServer) => (s.address() as AddressInfo).port
const listen = (s: Server | HttpsServer | Http2SecureServer) =>
  new Promise<void>(r => s.listen(0, '127.0.0.1', () => r()))

beforeAll(async () => {
  plain = createServer((request, response) => {
    const chunks: Buffer[] = []
    request
      .on('data', (c: Buffer) => chunks.push(c))
      .on('end', () => {
        seen.push({
          version: request.httpVersion,
          type: request.headers['content-type'] ?? '',
          body: Buffer.concat(chunks),
        })
        const path = request.url!
        if (path === '/endless') {
          response.on('error', () => {
            /* given up */
          })
          const more = () => {
            if (!response.destroyed) response.write(Buffer.alloc(1024 * 1024), () => setImmediate(more))
          }
          return more()
        }
        if (path.startsWith('/slow')) {
          most = Math.max(most, ++under)
          sockets.add(request.socket)
          return void setTimeout(() => {
            under--
            response.end('{}')
          }, 60)
        }
        if (path === '/away') return response.writeHead(302, { location: `http://127.0.0.1:${port(foreign)}/x` }).end()
        if (path === '/round') return response.writeHead(302, { location: '/round' }).end()
        if (path === '/gzip')
          return response
            .writeHead(200, { 'content-encoding': 'gzip', 'content-type': 'application/json' })
            .end(gzipSync('{"packed":"g"}'))
        if (path === '/br')
          return response.writeHead(200, { 'content-encoding': 'br' }).end(brotliCompressSync('{"packed":"b"}'))
        if (path === '/broken') return response.writeHead(200, { 'content-encoding': 'gzip' }).end('not gzip')
        if (path === '/latin')
          return response
            .writeHead(200, { 'content-type': 'text/plain; charset=iso-8859-1' })
            .end(Buffer.from('blåbær', 'latin1'))
        response.end('{}')
      })
  })
  foreign = createServer((_, response) => {
    foreignAsked++
    response.end('should never be seen')
  })
  https = createTlsServer(
    { key: KEY, cert: CERTIFICATE, keepAliveTimeout: 1 },
    (request: IncomingMessage & { socket: { isSessionReused?(): boolean } }, response) => {
      if (request.socket.isSessionReused?.()) resumed++
      response.writeHead(200, { connection: 'close' }).end(`HTTP ${request.httpVersion}`)
    },
  )
  http2 = createSecureServer({ key: KEY, cert: CERTIFICATE, allowHTTP1: true }, (request, response) => {
    response.end(`HTTP ${request.httpVersion}`)
  })
  await Promise.all([plain, foreign, https, http2].map(listen))
})
afterAll(async () => {
  health.stop()
  plain.closeAllConnections()
  await Promise.all([plain, foreign, https, http2].map(s => new Promise(r => s.close(r))))
})

async function walk(
  base: string,
  round: Partial<RequestStep>[],
  {
    over = {},
    trust,
    supplies = NO_SUPPLIES,
  }: { over?: Partial<HttpJourney>, trust?: string, supplies?: Supplies } = {},
): Promise<ExchangeRecord[]> {
  const walked = journey({ round: round.map((r, i) => step({ name: `S${i}`, ...r })), ...over })
  const document = runDocument({
    target: target({
      baseUrl: base,
      ...(trust ? { trust } : {}),
      approval: { hosts: [new URL(base).host], mostUsers: 9, until: '2999', contact: 'x' },
    }),
    journeys: [walked],
    plan: plan({ placement: { A: { REY: 10_000 } } }),
  })
  const { records, problem } = await tryJourneys(document, '1', supplies, health)
  expect(problem).toBe('')
  return records
}
const http = () => `http://127.0.0.1:${port(plain)}`

describe('answers', () => {
  it('without end are broken off, and the next request finds its way', async () => {
    const records = await walk(http(), [
      { url: '/endless', timeoutMs: 60_000, expect: [{ kind: 'body', rule: 'contains', value: 'x' }] },
      { url: '/fine' },
    ])
    expect(records.map(r => [r.failure, r.problem])).toEqual([
      ['tooLarge', 'the answer is longer than 8 MB'],
      [undefined, ''],
    ])
  }, 30_000)

  it('are unpacked and decoded before something looks into them; what cannot be unpacked holds nothing', async () => {
    const records = await walk(http(), [
      { url: '/gzip', expect: [{ kind: 'json', path: '$.packed', rule: 'equals', value: 'g' }] },
      { url: '/br', expect: [{ kind: 'json', path: '$.packed', rule: 'equals', value: 'b' }] },
      { url: '/latin', expect: [{ kind: 'body', rule: 'equals', value: 'blåbær' }] },
      { url: '/broken', expect: [{ kind: 'body', rule: 'contains', value: 'not' }] },
    ])
    expect(records.map(r => r.failure)).toEqual([undefined, undefined, undefined, 'expectation'])
  })
})

describe('redirects', () => {
  it('to a host that is not approved are not followed, and the host never hears of it', async () => {
    const [away] = await walk(http(), [{ url: '/away', redirects: 5 }])
    expect(away).toMatchObject({ failure: 'notApproved', hops: [{ status: 302 }] })
    expect(foreignAsked).toBe(0)
  })

  it('in a circle are given up, by name', async () => {
    const [round] = await walk(http(), [{ url: '/round', redirects: 4 }])
    expect([round!.failure, round!.hops.length]).toEqual(['redirects', 4])
    expect(round!.problem).toContain('more than 4 redirects')
  })
})

describe('a bundle', () => {
  it('has as many requests under way as it may, each on a connection of its own, and is over with its last', async () => {
    const records = await walk(http(), [], {
      over: {
        round: [
          {
            name: 'Page',
            think: { kind: 'none' },
            parallel: 3,
            requests: Array.from({ length: 7 }, (_, i) => ({
              name: `File ${i}`,
              method: 'GET' as const,
              url: `/slow/${i}`,
              timeoutMs: 5000,
            })),
          },
        ],
      },
    })
    expect([records.length, records.every(r => r.failure === undefined), most, sockets.size]).toEqual([7, true, 3, 3])
    // Three at a time, 60 ms each: seven take three rounds.
    expect(
      Math.max(...records.map(r => r.endedAtMs)) - Math.min(...records.map(r => r.beganAtMs)),
    ).toBeGreaterThanOrEqual(175)
  })

  it('with a request that cannot be made fails by it, and the others are sent all the same', async () => {
    const records = await walk(http(), [], {
      over: {
        opening: [
          step({ name: 'First', url: '/x', capture: [{ name: 'token', from: { kind: 'header', name: 'x-none' } }] }),
        ],
        round: [
          {
            name: 'Page',
            think: { kind: 'none' },
            parallel: 2,
            requests: ['/slow/a', '/{{token}}', '/slow/b'].map((url, i) => ({
              name: `File ${i}`,
              method: 'GET' as const,
              url,
              timeoutMs: 5000,
            })),
          },
        ],
      },
    })
    expect(records.map(r => [r.step, r.failure])).toEqual([
      ['First', 'capture'],
      ['File 0', undefined],
      ['File 2', undefined],
    ])
  })
})

describe('bodies', () => {
  it('in parts are read by an independent reader as they were meant (RFC 7578)', async () => {
    const file = Buffer.from([0, 255, 10, 13, 65])
    const id = 'a'.repeat(64)
    await walk(
      http(),
      [
        {
          method: 'POST',
          url: '/form',
          body: {
            kind: 'multipart',
            parts: [
              { name: 'who "x"', text: 'user {{user.number}}' },
              { name: 'photo', file: id, fileName: 'a "b".png', type: 'image/png' },
            ],
          },
        },
      ],
      { supplies: { ...NO_SUPPLIES, files: new Map([[id, file]]) } },
    )
    const { type, body } = seen.at(-1)!
    // undici's own parser of the Fetch standard.
    const form = await new Response(body, { headers: { 'content-type': type } }).formData()
    expect(form.get('who "x"')).toBe('user 1')
    const photo = form.get('photo') as unknown as File
    expect([photo.name, photo.type, Buffer.from(await photo.arrayBuffer())]).toEqual(['a "b".png', 'image/png', file])
  })

  it('of fields are written as forms are (WHATWG URL)', async () => {
    await walk(http(), [
      {
        method: 'POST',
        url: '/form',
        body: {
          kind: 'form',
          fields: [
            ['a b', 'å&='],
            ['c', '{{user.number}}'],
          ],
        },
      },
    ])
    expect([seen.at(-1)!.type, seen.at(-1)!.body.toString()]).toEqual([
      'application/x-www-form-urlencoded',
      'a+b=%C3%A5%26%3D&c=1',
    ])
  })
})

describe('TLS', () => {
  it('is refused where nobody vouches, accepted with the target’s own authority, timed apart, and taken up again by a user who stays the same', async () => {
    const base = `https://127.0.0.1:${port(https)}`
    expect((await walk(base, [{ url: '/' }]))[0]).toMatchObject({ failure: 'tls' })
    const [first, second] = await walk(base, [{ url: '/' }, { url: '/' }], { trust: CERTIFICATE })
    expect([first!.failure, first!.answer!.body]).toEqual([undefined, 'HTTP 1.1'])
    expect(first!.timings.tlsMs).toBeGreaterThan(0)
    expect(first!.timings.connectMs).toBeGreaterThanOrEqual(0)
    expect(second!.failure).toBeUndefined()
    expect(resumed).toBe(1)
  })

  it('carries HTTP/2 where it is asked for and offered, HTTP/1.1 otherwise', async () => {
    const base = `https://127.0.0.1:${port(http2)}`
    const version = async (over: Partial<HttpJourney>) =>
      (await walk(base, [{ url: '/' }], { over, trust: CERTIFICATE }))[0]!.answer?.body
    expect([await version({ http2: true }), await version({})]).toEqual(['HTTP 2.0', 'HTTP 1.1'])
  })
})
