/**
 * The API, asked thousands of things that are almost right, made by a seed: answered or refused in words, never a
 * fault.
 */
import { addressParts, type OperationId } from '../../api/addresses'
import { OPERATIONS, PATH_PARAMETERS, type Operation } from '../../api/operations'
import { DEMO_JOURNEYS, DEMO_PLAN, demoTarget, PORTAL_ID } from '../../demo/scenario'
import type { NetworksView } from '../../api/views'
import type { Target } from '../../core/journey/target'
import { House } from '../build/house'
import { Mutator } from '../build/mutated'

const SEED = Number(process.env.VORNAK_SEED ?? 20_261_128)
const ASKED = process.env.VORNAK_CASES === undefined ? 800 : 4000
/** They take long, or end what the others need. */
const LEFT_OUT: readonly OperationId[] = ['tryJourney', 'calibrate', 'startPlan', 'upload', 'addPerson', 'signIn']

let house: House
beforeAll(async () => {
  house = await House.build({ plans: { demo: DEMO_PLAN }, journeys: DEMO_JOURNEYS })
}, 60_000)
afterAll(() => house?.close(), 20_000)

async function bodies(): Promise<Partial<Record<OperationId, object>>> {
  const [target] = await house.get<Target[]>('targets')
  const { profiles } = await house.get<NetworksView>('networks')
  const [journey] = DEMO_JOURNEYS
  const approval = target!.approval
  const capacity = { journeyId: journey!.id, network: 'direct', provider: 'nimbral', machineType: 'brisk-1', vcpu: 1, users: 50 }
  const site = {
    id: 'campus',
    name: 'Campus',
    location: 'CAM',
    hosts: [{ name: 'a', address: '127.0.0.1', port: 9, user: 'u', folder: '/tmp/x' }],
  }
  return {
    newPlan: { plan: DEMO_PLAN },
    savePlan: { plan: DEMO_PLAN, onVersion: 1 },
    checkPlan: { plan: DEMO_PLAN },
    newJourney: { journey },
    saveJourney: { journey, onVersion: 1 },
    checkJourney: { journey, targetId: PORTAL_ID },
    newTarget: { target, secrets: { a: 'b' } },
    saveTarget: { target, secrets: { a: 'b' } },
    setApproval: { approval },
    saveNetwork: { profile: profiles[0]!.profile },
    saveRails: { budgetPerDay: 5, budgetPerRun: 5, leaseMin: 10 },
    saveSite: { site },
    setCapacity: capacity,
    takeCapacities: { capacities: [{ id: 'x', ...capacity, how: 'byHand', at: 1 }] },
    importAddresses: { text: 'https://app.test/a\nhttps://app.test/b', users: 10, seconds: 60, location: 'REY', approval },
    invite: { location: 'REY', machines: 2, validMin: 10, leaseMin: 10 },
    readHosts: { text: 'name,address,user\na,127.0.0.1,u' },
    readPlan: { text: JSON.stringify(DEMO_PLAN) },
    readJourney: { text: JSON.stringify(journey) },
    callRoll: {},
  }
}

it(`${ASKED} times`, async () => {
  const m = new Mutator(SEED)
  const valid = await bodies()
  const all = (Object.keys(OPERATIONS) as OperationId[]).filter(id => !LEFT_OUT.includes(id))
  const withBodies = Object.keys(valid) as OperationId[]
  const seen = new Map<number, number>()
  const ask = async () => {
    const id = m.below(3) ? m.one(withBodies) : m.one(all)
    const { method, path } = addressParts(id)
    const { query = {} }: Operation = OPERATIONS[id]
    const known = { plan: 'demo', journey: 'browse', target: PORTAL_ID, network: 'odd', kind: 'target', run: '1' } as Record<string, string>
    const odd = () => m.one(['1', '0', '-1', 'nope', '%00', '..%2f..', '1e9', '9'.repeat(30), '__proto__', '%F0%9F%A6%8A', 'a'.repeat(300)])
    const address = path.replace(/\{(\w+)\}/g, (_, name: string) => {
      expect(name in PATH_PARAMETERS).toBe(true)
      return m.below(3) ? (known[name] ?? odd()) : odd()
    })
    const search = Object.keys(query).flatMap(name => (m.below(2) ? [`${name}=${odd()}`] : []))
    const body = valid[id]
    const json = body === undefined ? '{}' : m.below(3) ? JSON.stringify(m.json(body)) : m.text(JSON.stringify(body))
    const where = `${house.url}/api${address}${search.length ? `?${search.join('&')}` : ''}`
    const answer = await fetch(where, {
      method,
      headers: { 'content-type': 'application/json' },
      ...(method === 'GET' ? {} : { body: json }),
    })
    const text = await answer.text()
    seen.set(answer.status, (seen.get(answer.status) ?? 0) + 1)
    if (answer.status >= 500) throw new Error(`${answer.status} ${method} ${where}\n${json.slice(0, 3000)}\n${text}\n${house.said.slice(-3000)}`)
    if (answer.status >= 400) {
      const { code, sentence, remedy } = JSON.parse(text) as Record<string, string>
      expect([where, !!code, !!sentence, remedy !== undefined]).toEqual([where, true, true, true])
    }
  }
  for (let i = 0; i < ASKED / 4; i++) await Promise.all([ask(), ask(), ask(), ask()])
  // Most is refused, and some is right.
  expect(seen.get(200)).toBeGreaterThan(ASKED / 50)
  expect(seen.get(400)).toBeGreaterThan(ASKED / 10)
  expect((await fetch(`${house.url}/api/meter`)).status).toBe(200)
}, 120_000)

/** Longest that others wait for an answer meanwhile, ms; all faults of the first were told once, in thirty thousand. */
const MOST_WAIT_MS = 3000

const many = (n: number, named: (i: number) => [string, unknown]) =>
  Object.fromEntries(Array.from({ length: n }, (_, i) => named(i)))
const FLOODS: [what: string, path: string, body: () => object, says: string][] = [
  [
    'a megabyte of wrong steps',
    'journeys',
    () => ({ journey: { ...DEMO_JOURNEYS[0], round: Array.from({ length: 38_000 }, () => ({ name: 'a', method: 'GET' })) } }),
    '500',
  ],
  [
    'a plan of places that are none',
    'plans/check',
    () => ({ plan: { ...DEMO_PLAN, placement: { A: many(90_000, i => [`place${i}`, 1]) } } }),
    'placement → A',
  ],
  [
    'tens of thousands of secrets',
    'targets',
    () => ({ target: demoTarget('http://127.0.0.1:1', '2999-01-01T00:00:00.000Z'), secrets: many(60_000, i => [`s${i}`, 'x']) }),
    '100',
  ],
]

it.each(FLOODS)('%s: refused, and nobody is held up', async (_, path, body, says) => {
  let isOver = false
  const refused = house.post(path, body()).finally(() => {
    isOver = true
  })
  let longest = 0
  while (!isOver) {
    const asked = performance.now()
    await house.get('me')
    longest = Math.max(longest, performance.now() - asked)
  }
  expect(await refused).toMatchObject({ status: 400, body: { code: 'form', sentence: expect.stringContaining(says) } })
  expect(longest).toBeLessThan(MOST_WAIT_MS)
})

it.each(['__proto__', String.raw`\u005f_proto__`])('a key that changes prototypes is refused, written as %s', async (key) => {
  const answer = await fetch(`${house.url}/api/plans/check`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: `{"plan":{"${key}":{}}}`,
  })
  expect([answer.status, ((await answer.json()) as { code: string }).code]).toEqual([400, 'json'])
})
