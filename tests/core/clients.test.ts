/** Clients: what they may say, and how they are dealt to the users of a group. */
import fc from 'fast-check'
import { applyFix } from '../../core/checks/apply-fix'
import { changesBetween } from '../../core/checks/differences'
import { problemsOf } from '../../core/checks/problems'
import { faultsOfClient, type Client } from '../../core/client/client'
import { CLIENT_PRESETS } from '../../core/client/presets'
import { dealUsers } from '../../core/placement/deal-users'
import type { ClientMix } from '../../core/plan/document'
import { clientsOf, clientsUsed } from '../../core/plan/shares'
import type { CommandJourney } from '../../core/journey/journey'
import { seriesOf } from '../../core/run/series'
import { partOfSlice, sliceFor } from '../../core/run/slice'
import { hill, journey, offers, plan, runDocument, target } from '../build/plans'

const client = (over: Partial<Client> = {}): Client => ({
  id: 'own',
  name: 'Own',
  headers: [['user-agent', 'Own/1']],
  ...over,
})
const planWith = (clients?: ClientMix) =>
  plan({
    groups: [
      { letter: 'A', name: 'A', journeyId: 'look', profile: hill(40, 1, 5, 1), ...(clients ? { clients } : {}) },
      { letter: 'B', name: 'B', journeyId: 'look', profile: hill(10, 1, 5, 1) },
    ],
    placement: { A: { REY: 5000, TAV: 'rest' }, B: { REY: 10_000 } },
    networks: { A: { REY: { 'city-fibre': 5000 } } },
  })

describe('a client', () => {
  it('of those that ship says nothing that cannot be', () => {
    expect(CLIENT_PRESETS.flatMap(faultsOfClient)).toEqual([])
  })

  it.each([
    ['a name that plans cannot write', { id: 'My Phone' }, 'id'],
    ['the name for none', { id: 'plain' }, 'id'],
    ['no name', { name: ' ' }, 'name'],
    ['no header', { headers: [] }, 'headers'],
    ['a name with a space', { headers: [['user agent', 'x']] }, 'headers'],
    ['a name that splits the head', { headers: [['x\r\nhost', 'x']] }, 'headers'],
    ['a value that splits the head', { headers: [['x-a', 'a\r\nhost: other']] }, 'headers'],
    ['a value that is empty', { headers: [['x-a', '']] }, 'headers'],
    ['a value of other letters', { headers: [['x-a', 'Reykjavík']] }, 'headers'],
    ['a header twice', { headers: [['x-a', '1'], ['X-A', '2']] }, 'headers'],
    ['the host', { headers: [['Host', 'other']] }, 'headers'],
    ['cookies', { headers: [['cookie', 'a=1']] }, 'headers'],
    ['the length of a body', { headers: [['Content-Length', '3']] }, 'headers'],
    ['marks of a run', { headers: [['vornak-step', 'x']] }, 'headers'],
  ] as [string, Partial<Client>, string][])('with %s is refused there', (_, over, field) => {
    expect(faultsOfClient(client(over)).map(f => f.field)).toEqual([field])
  })
})

describe('clients of a group', () => {
  it('are told apart in series, only there; users left over say nothing', () => {
    const p = planWith({ 'phone-app': 6000, 'desktop-browser': 3000 })
    expect(clientsOf(p.groups[0]!).map(c => [c.client, c.bp])).toEqual([
      ['phone-app', 6000],
      ['desktop-browser', 3000],
      ['plain', 1000],
    ])
    expect(clientsUsed(p)).toEqual(['phone-app', 'desktop-browser'])
    const kinds = seriesOf(runDocument({ plan: p })).map(s => `${s.group} ${s.location} ${s.network} ${s.client}`)
    expect([...new Set(kinds)]).toEqual([
      ...['city-fibre', 'direct'].flatMap(n => ['phone-app', 'desktop-browser', 'plain'].map(c => `0 0 ${n} ${c}`)),
      ...['phone-app', 'desktop-browser', 'plain'].map(c => `0 1 direct ${c}`),
      '1 0 direct plain',
    ])
  })

  it('move nobody: with or without them each user has its place and network', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 10_000 }), fc.integer({ min: 1, max: 5 }), (bp, machines) => {
        const seated = (clients?: ClientMix) => {
          const document = runDocument({ plan: planWith(clients) })
          const generators = [Array.from({ length: machines }, () => 1), [1]]
          return [0, 1].flatMap(location =>
            generators[location]!.map((_, generator) =>
              sliceFor(document, generators, { location, generator }).users.map(u => [u.group, u.number, u.network])))
        }
        expect(seated({ 'phone-app': bp })).toEqual(seated())
      }),
      { numRuns: 40 },
    )
  })

  it('come within two users of their share at every prefix, in all, on each machine, on each network', () => {
    const parts = fc.array(fc.integer({ min: 1, max: 20 }), { minLength: 1, maxLength: 4 })
    fc.assert(
      fc.property(parts, parts, fc.integer({ min: 1, max: 4 }), (clients, networks, machines) => {
        const [dealt] = dealUsers([{ users: 120, shares: [1], networks: [networks], clients }], [
          { generators: Array.from({ length: machines }, () => 1) },
        ])
        const total = clients.reduce((a, b) => a + b, 0)
        const counts = new Map<string, number>()
        const n = (key: string) => counts.get(key) ?? 0
        dealt!.clientOf.forEach((c, u) => {
          const seats = ['all', `machine ${dealt!.generatorOf[u]}`, `network ${dealt!.networkOf[u]}`]
          for (const seat of seats) {
            counts.set(seat, n(seat) + 1)
            counts.set(`${seat} ${c}`, n(`${seat} ${c}`) + 1)
            clients.forEach((part, k) => {
              const off = Math.abs(n(`${seat} ${k}`) - (n(seat) * part) / total)
              if (off > 2 + 1e-9) throw new Error(`${seat}: client ${k} is off by ${off} after ${u + 1} users`)
            })
          }
        })
      }),
      { numRuns: 200 },
    )
  })

  it('reach each user with the series it is counted in, also passes that arrive, also split among workers', () => {
    const p = planWith({ 'phone-app': 5000 })
    p.groups[1] = {
      ...p.groups[1]!,
      clients: { 'desktop-browser': 4000 },
      drive: { kind: 'arrivals', spacing: 'even', mostInFlight: 50 },
    }
    const document = runDocument({ plan: p })
    const series = seriesOf(document)
    const slice = sliceFor(document, [[1], [1]], { location: 0, generator: 0 })
    for (const part of [slice, partOfSlice(slice, 1, 3)]) {
      for (const { group, network, client: by, firstSeries } of part.users)
        expect(series[firstSeries]).toMatchObject({ group, location: 0, network, client: by, measure: 0 })
      const [arrivals] = part.arrivals
      expect(arrivals!.kindOf).toHaveLength(arrivals!.atMs.length)
      const by = Array.from(arrivals!.kindOf, k => arrivals!.kinds[k]!)
      for (const { client: said, firstSeries } of by)
        expect(series[firstSeries]).toMatchObject({ group: 1, location: 0, client: said })
      const share = by.filter(k => k.client === 'desktop-browser').length / by.length
      expect(Math.abs(share - 0.4)).toBeLessThan(0.1)
    }
  })
})

describe('before a run', () => {
  const around = {
    target: target(),
    journeys: [journey()],
    offers: offers(),
    feeds: {},
    networks: [],
    clients: CLIENT_PRESETS,
    lengthMs: 60_000,
    now: '2026-11-25T08:00:00.000Z',
  }
  const found = (clients: ClientMix, over = {}) =>
    problemsOf(planWith(clients), { ...around, ...over }).filter(p => p.code.includes('client'))

  it('more than the whole, and a client there is not, are in the way; a fix takes them off', () => {
    expect(found({ 'phone-app': 6000, 'desktop-browser': 4000 })).toEqual([])
    expect(found({ 'phone-app': 6000, 'desktop-browser': 4001 })).toMatchObject([
      { code: 'client-total', weight: 'inTheWay', group: 'A' },
    ])
    const [unknown] = found({ tablet: 100 })
    expect(unknown).toMatchObject({ code: 'unknown-client', sentence: 'A: there is no client “tablet”.' })
    const p = planWith({ tablet: 100 })
    applyFix(p, unknown!.fix!)
    expect(p.groups[0]).not.toHaveProperty('clients')
  })

  it('a command has none', () => {
    const command: CommandJourney = {
      schema: 'vornak-journey/1',
      kind: 'command',
      id: 'look',
      name: 'Look',
      kit: 'k',
      runtimes: [],
      run: ['node', 'load.mjs'],
      steps: ['Look'],
      bringBack: [],
    }
    expect(found({ 'phone-app': 100 }, { journeys: [command] }).map(p => p.code)).toEqual(['client-command'])
  })

  it('what has changed of them is said', () => {
    expect(changesBetween(planWith(), planWith({ 'phone-app': 6000 }), [journey()])).toEqual([
      { what: 'A: clients', before: 'none added', after: 'phone-app 60 %' },
    ])
  })
})
