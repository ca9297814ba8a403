/** Names that stand for addresses nobody approved: nothing is sent to any of them. */
import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import type { LookupAddress } from 'node:dns'
import { approvedConnector } from '../../generator/exchange/approved-connector'
import { approvedLookup } from '../../generator/exchange/approved-names'
import type { Outcome } from '../../generator/exchange/exchange'
import { UndiciExchange } from '../../generator/exchange/undici-exchange'
import { redirected } from '../../generator/users/redirect'
import { reach } from '../../generator/roll-call/reach'

let server: Server
let port = 0
let asked: (string | undefined)[] = []
beforeAll(async () => {
  server = createServer((request, response) => {
    asked.push(request.headers.host)
    response.end('here')
  })
  await new Promise<void>(ready => server.listen(0, '127.0.0.1', ready))
  port = (server.address() as AddressInfo).port
})
beforeEach(() => {
  asked = []
})
afterAll(() => {
  server.closeAllConnections()
  server.close()
})

const nobody = { opened: () => undefined, closed: () => undefined }
const request = (host: string, headers: string[] = []) => ({
  origin: `http://${host}`,
  path: '/',
  method: 'GET',
  headers,
  body: undefined,
  timeoutMs: 2000,
  keepBytes: 0,
  needsWhole: false,
})
const send = (hosts: string[], addressRanges: string[], what: ReturnType<typeof request> & { saysHost?: string }) =>
  new Promise<Outcome>((resolve) => {
    const connector = approvedConnector({ hosts: new Set(hosts), addressRanges, count: nobody })
    const exchange = new UndiciExchange(connector, { sessions: new Map() }, false, (o) => {
      resolve({ ...o })
      setImmediate(() => exchange.close())
    })
    exchange.send(what)
  })

describe('a name', () => {
  it('of a private address leads nowhere until the approval names the address, and the words say which', async () => {
    const host = `localhost:${port}`
    const refused = await send([host], [], request(host))
    expect(refused).toMatchObject({ failure: 'notApproved', reach: 'neverSent' })
    expect(refused.problem).toMatch(/^localhost:\d+ stands for the private address \S+, which the approval does not name: add \S+ to/)
    expect(await send([host], ['127.0.0.0/8', '::1'], request(host))).toMatchObject({ status: 200 })
    expect(asked).toHaveLength(1)
  })

  it('keeps those of its addresses that may be connected to, and tells why when there are none', async () => {
    const stands = (addresses: string[], ranges: string[]) =>
      new Promise((resolve) => {
        const list = addresses.map((address): LookupAddress => ({ address, family: address.includes(':') ? 6 : 4 }))
        approvedLookup('shop.example:80', { addressRanges: ranges }, (_name, _options, done) => done(null, list))(
          'shop.example',
          { all: true },
          (error, found) => resolve(error ? error.message : (found as LookupAddress[]).map(a => a.address)),
        )
      })
    expect(await stands(['10.0.0.1', '93.184.215.14', 'fe80::1'], [])).toEqual(['93.184.215.14'])
    expect(await stands(['10.0.0.1', '169.254.169.254'], ['10.0.0.0/24'])).toEqual(['10.0.0.1'])
    expect(await stands(['169.254.169.254'], ['0.0.0.0/0'])).toContain('link-local')
    expect(await stands([], [])).toContain('no address')
  })

  it('is held the same way by the roll call', async () => {
    const host = `localhost:${port}`
    expect(await reach(host, false, {})).toMatchObject({ ok: false, problem: expect.stringContaining('private address') })
    expect(asked).toHaveLength(0)
    expect(await reach(host, false, { addressRanges: ['127.0.0.1', '::1'] })).toMatchObject({ ok: true, status: 200 })
  })
})

describe('a host header', () => {
  it('names an approved host, or the request stays here', async () => {
    const here = `127.0.0.1:${port}`
    const saying = (name: string) => ({ ...request(here, ['host', name]), saysHost: name })
    const other = await send([here], [], saying('other.example'))
    expect(other).toMatchObject({
      failure: 'notApproved',
      reach: 'neverSent',
      problem: 'the header says host: other.example, which is not approved',
    })
    expect(asked).toEqual([])
    expect(await send([here, 'other.example:80'], [], saying('other.example'))).toMatchObject({ status: 200 })
    expect(await send([here], [], saying(here))).toMatchObject({ status: 200 })
    expect(asked).toEqual(['other.example', here])
  })

  it('stays with the host it was meant for, when an answer leads elsewhere', () => {
    const from = { ...request('a.example', ['host', 'a.example', 'accept', '*/*']), saysHost: 'a.example' }
    expect(redirected(from, 302, new URL('http://b.example/x'), 1, 100)).toMatchObject({
      headers: ['accept', '*/*', 'vornak-hop', '1'],
    })
    expect(redirected(from, 302, new URL('http://b.example/x'), 1, 100).saysHost).toBeUndefined()
    expect(redirected(from, 302, new URL('http://a.example/x'), 1, 100)).toMatchObject({ saysHost: 'a.example' })
  })
})
