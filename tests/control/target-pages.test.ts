/** Pages of figures over real HTTP: which are read, which are refused, how old what they say is. */
import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { PageReader } from '../../control/target/page-reader'
import { Inbox } from '../../control/target/inbox'
import { PageFetcher } from '../../control/target/page'
import { SourceTrouble } from '../../control/target/trouble'
import { trySource } from '../../control/target/trying'
import type { Source } from '../../core/target/source'
import type { Target } from '../../core/journey/target'
import { createPortal, type Portal } from '../../standins/enrolment-portal/portal'
import { target as someTarget } from '../build/plans'

const now = () => Date.now()
/** Nothing runs on hosts here, and nothing is sent. */
const around = { commands: { open: () => Promise.reject(new Error('no host')) }, inbox: new Inbox() }
let server: Server
let host = ''
/** What the server answers with. */
let answer: (request: { headers: Record<string, unknown>, url: string }) => {
  status?: number
  text?: string
  headers?: Record<string, string>
  hangs?: boolean
}
beforeAll(async () => {
  server = createServer((request, response) => {
    const { status = 200, text = '', headers = {}, hangs = false } = answer({ headers: request.headers, url: request.url! })
    if (hangs) return void response.writeHead(200).write('a 1\n')
    response.writeHead(status, { 'content-type': 'text/plain; version=0.0.4', ...headers }).end(text)
  })
  await new Promise<void>(r => server.listen(0, '127.0.0.1', r))
  host = `127.0.0.1:${(server.address() as AddressInfo).port}`
})
afterAll(() => {
  server.closeAllConnections()
  server.close()
})

const approved = (over: Partial<NonNullable<Target['approval']>> = {}): Target =>
  someTarget({
    baseUrl: 'http://127.0.0.1:9',
    approval: { hosts: ['127.0.0.1:9'], readFrom: [host], mostUsers: 1, until: '2999-01-01T00:00:00Z', contact: 'x', ...over },
  })
const source = (over: Partial<Source> = {}): Source => ({
  name: 'page',
  kind: 'metrics',
  address: `http://${host}/metrics`,
  everyS: 1,
  series: [{ name: 'a', of: 'a', kind: 'gauge' }],
  ...over,
})
/** Why a page could not be read: step and sentence. */
async function troubleOf(target: Target, of: Source, secrets: Record<string, string> = {}): Promise<SourceTrouble> {
  const fetcher = new PageFetcher(target, secrets, now)
  try {
    await new PageReader(of, fetcher, 1).read()
  }
  catch (error) {
    if (error instanceof SourceTrouble) return error
    throw error
  }
  finally {
    await fetcher.close()
  }
  throw new Error('it was read')
}

describe('only what the owner has agreed to is read', () => {
  it.each([
    ['no approval', () => ({ ...approved(), approval: undefined }) as unknown as Target, /is not approved/],
    ['another host', () => approved({ readFrom: [] }), /has not agreed that figures are read from/],
  ])('%s', async (_, target, sentence) => {
    let isAsked = false
    answer = () => {
      isAsked = true
      return { text: 'a 1\n' }
    }
    const trouble = await troubleOf(target(), source())
    expect(trouble.step).toBe('approval')
    expect(trouble.message).toMatch(sentence)
    expect(isAsked).toBe(false)
  })

  it('a name that stands for a private address nobody named is not connected to', async () => {
    const port = host.split(':')[1]!
    const target = approved({ readFrom: [`localhost:${port}`] })
    const trouble = await troubleOf(target, source({ address: `http://localhost:${port}/metrics` }))
    expect(trouble.message).toMatch(/private address/)
  })

  it('an answer that leads elsewhere is not followed', async () => {
    let asked = 0
    answer = () => {
      asked++
      return { status: 302, headers: { location: '/elsewhere' } }
    }
    const trouble = await troubleOf(approved(), source())
    expect(trouble).toMatchObject({ step: 'answer', message: expect.stringMatching(/answers 302/) as string })
    expect(asked).toBe(1)
  })
})

describe('what goes wrong is said, with its step', () => {
  it('nobody listens', async () => {
    const trouble = await troubleOf(approved(), source({ address: 'http://127.0.0.1:9/metrics' }))
    expect(trouble).toMatchObject({ step: 'connection', message: expect.stringMatching(/nobody listens/) as string })
  })

  it('a sealed value is sent, and only there', async () => {
    answer = ({ headers }) => (headers.authorization === 'Bearer s3cret' ? { text: 'a 4\n' } : { status: 401 })
    expect((await troubleOf(approved(), source())).message).toMatch(/answers 401/)
    const asks = source({ authorization: 'Bearer {{target.token}}' })
    expect((await troubleOf(approved(), asks)).message).toMatch(/no secret token/)
    const fetcher = new PageFetcher(approved(), { token: 's3cret' }, now)
    expect((await new PageReader(asks, fetcher, 1).read()).points).toMatchObject([{ value: 4 }])
    await fetcher.close()
  })

  it('a page that is none', async () => {
    answer = () => ({ text: '<html>welcome</html>' })
    expect(await troubleOf(approved(), source())).toMatchObject({ step: 'page' })
    expect((await troubleOf(approved(), source({ kind: 'json' }))).message).toMatch(/no JSON/)
  })

  it('a page that hangs half way is given up, and the next is read', async () => {
    answer = () => ({ hangs: true })
    const began = Date.now()
    const trouble = await troubleOf(approved(), source())
    expect(trouble.message).toMatch(/not answered whole within 5 s/)
    expect(Date.now() - began).toBeLessThan(20_000)
    answer = () => ({ text: 'a 1\n' })
    const fetcher = new PageFetcher(approved(), {}, now)
    expect((await new PageReader(source(), fetcher, 1).read()).points).toHaveLength(1)
    await fetcher.close()
  })
})

it('a value that is 40 s old is 40 s old, also by a clock that is hours ahead', async () => {
  for (const aheadMs of [0, 3 * 3_600_000 + 217]) {
    answer = () => {
      const there = Date.now() + aheadMs
      return { text: `a 1 ${there - 40_000}\n`, headers: { date: new Date(there).toUTCString() } }
    }
    const fetcher = new PageFetcher(approved(), {}, now)
    const reader = new PageReader(source(), fetcher, 1)
    let age = 0
    // Dates are of whole seconds: several of them tell where in the second a clock is.
    for (let i = 0; i < 12; i++) {
      age = (await reader.read()).ageMs ?? age
      await new Promise(r => setTimeout(r, 130))
    }
    await fetcher.close()
    expect(Math.abs(age - 40_000)).toBeLessThan(1000)
  }
})

describe('a try', () => {
  let portal: Portal
  let address = ''
  beforeAll(async () => {
    portal = createPortal()
    await new Promise<void>(r => portal.server.listen(0, '127.0.0.1', r))
    address = `127.0.0.1:${(portal.server.address() as AddressInfo).port}`
    await fetch(`http://${address}/timetable`, { headers: { 'vornak-run': '5', 'vornak-step': 'Look' } })
  })
  afterAll(() => {
    portal.server.closeAllConnections()
    portal.server.close()
  })
  const library = () => ({ target: () => approved({ readFrom: [address] }), secretsOf: () => ({}) })

  it('says what a page offers, and what would be read of it', async () => {
    const of = source({
      address: `http://${address}/metrics`,
      series: [
        { name: 'replicas', of: 'portal_replicas', kind: 'gauge' },
        { name: 'calls', of: 'portal_calls', kind: 'count', by: 'step' },
      ],
    })
    const tried = await trySource('t', of, library(), { ...around, now })
    expect(tried.steps.every(s => s.isRight)).toBe(true)
    expect(tried.offered.find(o => o.of === 'portal_call_seconds')).toMatchObject({
      type: 'histogram',
      labels: { run: ['5'], step: ['Look'] },
    })
    expect(tried.found).toMatchObject([
      { name: 'replicas', lines: [{ split: '', value: 2 }] },
      { name: 'calls', lines: [{ split: 'Look' }] },
    ])
  })

  it('says at which step it fails', async () => {
    const { steps } = await trySource('t', source({ address: `http://${address}/nowhere` }), library(), { ...around, now })
    expect(steps).toMatchObject([{ step: 'approval', isRight: true }, { step: 'connection', isRight: true }, { step: 'answer', isRight: false }])
    await expect(trySource('t', source({ address: 'gopher://x' }), library(), { ...around, now })).rejects.toMatchObject({ code: 'source' })
  })
})
