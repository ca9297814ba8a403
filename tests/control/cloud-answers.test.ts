/** A cloud whose API answers otherwise than agreed: each call says so, and nothing is made of it. */
import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import { realClock } from '../../control/clock'
import { cloudApi } from '../../control/machines/providers/cloud-api'
import { ProviderSilent } from '../../control/machines/providers/contract'

let answer: { status?: number, body: string } = { body: '' }
const server = createServer((request, response) => {
  request.resume().on('end', () => response.writeHead(answer.status ?? 200).end(answer.body))
})
let cloud: ReturnType<typeof cloudApi>
beforeAll(async () => {
  await new Promise<void>(ready => server.listen(0, '127.0.0.1', ready))
  const address = `http://127.0.0.1:${(server.address() as AddressInfo).port}`
  cloud = cloudApi({ id: 'n', name: 'Nimbral', address, key: 'k' }, realClock)
})
afterAll(() => {
  server.closeAllConnections()
  server.close()
})

const request = {
  region: 'reyk',
  type: 'brisk-1',
  name: 'x',
  idempotencyKey: 'x',
  environment: {},
  endsAfterS: 60,
  interruptible: false,
  attached: {},
}
const calls = {
  offers: () => cloud.offers(),
  create: () => cloud.create(request),
  list: () => cloud.list(),
  bills: () => cloud.bills!(['a']),
}
const machine = { id: 'm', name: 'n', region: 'r', type: 't', state: 'running' }

it.each<[keyof typeof calls, string, unknown]>([
  ['offers', 'null', null],
  ['offers', 'an empty object', {}],
  ['offers', 'a list', []],
  ['offers', 'a currency that is none', { currency: 7, pricesAsOf: '2026', otherBills: [] }],
  ['offers', 'prices that are none', { currency: 'EUR', pricesAsOf: '', otherBills: [{ name: 'x', per: 'hour', price: '1' }] }],
  ['create', 'null', null],
  ['create', 'a number', 5],
  ['create', 'a machine without a name', { id: '' }],
  ['list', 'null', null],
  ['list', 'an object', { machines: [] }],
  ['list', 'machines that are null', [null]],
  ['list', 'a state nobody knows', [{ ...machine, state: 'asleep' }]],
  ['list', 'an id that is a number', [{ ...machine, id: 4 }]],
  ['list', 'a moment that is none', [{ ...machine, reclaimAt: 'soon' }]],
  ['bills', 'a bill below nothing', [{ machine: 'a', amount: -5, currency: 'EUR', final: true }]],
  ['bills', 'a bill without end', [{ machine: 'a', amount: 1, currency: 'EUR' }]],
])('%s answered with %s is said to be not as agreed', async (call, _, body) => {
  answer = { body: JSON.stringify(body) }
  const fault = await calls[call]().then(() => undefined, (error: unknown) => error)
  expect(fault).toBeInstanceOf(ProviderSilent)
  expect((fault as Error).message).toMatch(/^Nimbral at http:\S+ answered .*not as agreed: /)
})

it('a refusal without words is not taken for one', async () => {
  answer = { status: 409, body: '{}' }
  await expect(calls.create()).rejects.toThrow('not as agreed')
  answer = { status: 409, body: '{"error":"quota","message":"No more."}' }
  await expect(calls.create()).resolves.toEqual({ refusal: { code: 'quota', sentence: 'No more.', passing: true } })
})

it('what is more than was agreed is left alone', async () => {
  answer = { body: JSON.stringify([{ ...machine, colour: 'red' }]) }
  expect((await calls.list())[0]).toEqual({ ref: 'm', name: 'n', region: 'r', type: 't', state: 'running' })
})
