/** Every operation of the API, asked by everyone there is: what its table says holds for the process that answers. */
import WebSocket from 'ws'
import { addressParts, type OperationId } from '../../api/addresses'
import { OPERATIONS, PATH_PARAMETERS, type Operation } from '../../api/operations'
import { includes, ROLES, type Role } from '../../api/roles'
import type { TrailView } from '../../api/views'
import { House } from '../build/house'

type Headers = Record<string, string>
const WORDS: Record<Role, string> = {
  viewer: 'seven green hats on a hill',
  operator: 'nine wet stones by a road',
  keeper: 'four yellow boats at dawn',
}
let house: House
beforeAll(async () => {
  house = await House.build({ plans: {}, journeys: [] })
}, 60_000)
afterAll(() => house?.close(), 20_000)

async function ask(method: string, path: string, headers: Headers = {}, body: object = {}) {
  const answer = await fetch(`${house.url}/api${path}`, {
    method,
    headers: { 'content-type': 'application/json', ...headers },
    ...(method === 'GET' ? {} : { body: JSON.stringify(body) }),
  })
  const text = await answer.text()
  let code: string | undefined
  try {
    code = (JSON.parse(text) as { code?: string }).code
  }
  catch {
    // A file.
  }
  return { status: answer.status, code, text, cookie: answer.headers.get('set-cookie')?.split(';')[0], answer }
}
const signIn = async (name: string, password: string): Promise<Headers> => {
  const { cookie } = await ask('POST', '/me/sign-in', {}, { name, password })
  return { cookie: cookie! }
}
/** Somewhere in each address is something that is not there. */
function addressOf(id: OperationId): { method: string, path: string } {
  const { method, path } = addressParts(id)
  return {
    method,
    path: path.replace(/\{(\w+)\}/g, (_, name: string) => {
      if (name === 'kind') return 'feed'
      return PATH_PARAMETERS[name as keyof typeof PATH_PARAMETERS].type === 'integer' ? '99999' : 'nope'
    }),
  }
}
const ALL = Object.keys(OPERATIONS) as OperationId[]

it('open to this computer, everything may be asked; the first person closes it, and is signed in at once', async () => {
  expect(await ask('GET', '/plans')).toMatchObject({ status: 200 })
  expect(await ask('POST', '/people', {}, { name: 'viewer', role: 'viewer', password: WORDS.viewer })).toMatchObject({
    status: 400,
    code: 'person',
  })
  const open = new WebSocket(`${house.url.replace('http', 'ws')}/live`)
  await new Promise(resolve => open.once('open', resolve))
  const closed = new Promise(resolve => open.once('close', resolve))
  const { cookie, answer } = await ask('POST', '/people', {}, { name: 'keeper', role: 'keeper', password: WORDS.keeper })
  expect(answer.headers.get('set-cookie')).toMatch(/^vornak-[0-9a-f]{6}=[\w-]{43}; Max-Age=604800; Path=\/; HttpOnly; SameSite=Lax$/)
  // Anyone who looked on because nobody could sign in hears no more.
  await closed
  expect(await ask('GET', '/plans')).toMatchObject({ status: 401, code: 'sign-in' })
  const keeper = { cookie: cookie! }
  expect(await ask('GET', '/plans', keeper)).toMatchObject({ status: 200 })
  for (const role of ['viewer', 'operator'] as const)
    expect(await ask('POST', '/people', keeper, { name: role, role, password: WORDS[role] })).toMatchObject({ status: 200 })
})

it('anyone who is not known gets nothing, but what is for anyone', async () => {
  for (const id of ALL) {
    const { method, path } = addressOf(id)
    for (const headers of [{}, { cookie: 'vornak=AAAA' }, { authorization: 'Bearer vornak_AAAA' }] as Headers[]) {
      const { status, code } = await ask(method, path, headers)
      const isAnyone = (OPERATIONS[id] as Operation).role === 'anyone'
      expect([id, code === 'sign-in', status === 401 && !isAnyone]).toEqual([id, !isAnyone, !isAnyone])
    }
  }
}, 60_000)

it.each(ROLES)('a %s gets what the table says, in person and by a token', async (role) => {
  const person = await signIn(role, WORDS[role])
  const made = await ask('POST', '/me/tokens', person, { name: 'a test', role, days: 1 })
  const token = { authorization: `Bearer ${(JSON.parse(made.text) as { token: string }).token}` }
  for (const id of ALL) {
    const { method, path } = addressOf(id)
    const { role: needed, by }: Operation = OPERATIONS[id]
    const isEnough = needed === 'anyone' || includes(role, needed)
    for (const [bearer, headers] of [['token', token], ['person', person]] as const) {
      // It would end the session that asks.
      if (id === 'signOut' && bearer === 'person') continue
      const { status, code } = await ask(method, path, headers)
      const mayAsk = isEnough && (by === undefined || (by as readonly string[]).includes(bearer))
      expect([id, bearer, code === 'role' && status === 403]).toEqual([id, bearer, !mayAsk])
      expect([id, code === 'sign-in', status >= 500]).toEqual([id, false, false])
    }
  }
  expect(await ask('POST', '/me/sign-out', person)).toMatchObject({ status: 200 })
  expect(await ask('GET', '/plans', person)).toMatchObject({ status: 401 })
}, 60_000)

it('the token of a source opens that source, and nothing else', async () => {
  const operator = await signIn('operator', WORDS.operator)
  const target = {
    id: 'sent-to', name: 'Sent to', environment: 'test', baseUrl: 'http://127.0.0.1:9',
    sources: [{ name: 'own', kind: 'sent', address: '', everyS: 1, series: [] }],
  }
  const { id } = JSON.parse((await ask('POST', '/targets', operator, { target })).text) as { id: string }
  expect(await ask('POST', `/targets/${id}/tokens`, operator, { source: 'other' })).toMatchObject({ code: 'not-found' })
  const newToken = async () => {
    const { text } = await ask('POST', `/targets/${id}/tokens`, operator, { source: 'own' })
    return { authorization: `Bearer ${(JSON.parse(text) as { token: string }).token}` }
  }
  const first = await newToken()
  const token = await newToken()
  const send = async (headers: Headers, body = 'open 4') =>
    (await fetch(`${house.url}/api/sent/lines`, { method: 'POST', headers, body })).status
  // Another one ends the one before.
  expect([await send(first), await send({}), await send(token), await send(token, 'open')]).toEqual([401, 401, 200, 400])
  for (const one of ALL) {
    const { method, path } = addressOf(one)
    const { by, role }: Operation = OPERATIONS[one]
    const { status, code } = await ask(method, path, token)
    const mayAsk = role === 'anyone' || (by as readonly string[] | undefined)?.includes('source') === true
    expect([one, status, code, code === 'role' && status === 403]).toEqual([one, status, code, !mayAsk])
  }
  const live = new WebSocket(`${house.url.replace('http', 'ws')}/live`, { headers: token })
  expect(await new Promise(resolve => live.once('unexpected-response', (_, r) => resolve(r.statusCode)).once('open', () => resolve(101)))).toBe(401)
  expect(JSON.parse((await ask('GET', `/targets/${id}/tokens`, operator)).text)).toMatchObject([{ source: 'own', usedAt: expect.any(Number) }])
  expect(await ask('POST', `/targets/${id}/tokens/end`, operator, { source: 'own' })).toMatchObject({ status: 200 })
  expect(await send(token)).toBe(401)
  // A command on a host is a keeper's to write, and an operator's to keep.
  const command = { name: 'cmd', kind: 'command', address: 'a/b', command: 'id', everyS: 1, series: [] }
  const withCommand = { ...target, id, sources: [...target.sources, command] }
  expect(await ask('PUT', `/targets/${id}`, operator, { target: withCommand })).toMatchObject({ code: 'role' })
  expect(await ask('POST', `/targets/${id}/sources/try`, operator, { source: command })).toMatchObject({ code: 'role' })
  const keeper = await signIn('keeper', WORDS.keeper)
  expect(await ask('PUT', `/targets/${id}`, keeper, { target: withCommand })).toMatchObject({ status: 200 })
  expect(await ask('PUT', `/targets/${id}`, operator, { target: withCommand })).toMatchObject({ status: 200 })
  expect(await ask('POST', `/targets/${id}/remove`, operator)).toMatchObject({ status: 200 })
}, 60_000)

it('an operator records no approval, however it comes', async () => {
  const [operator, keeper] = [await signIn('operator', WORDS.operator), await signIn('keeper', WORDS.keeper)]
  const target = { id: 'x', name: 'X', environment: 'test', baseUrl: 'http://127.0.0.1:9' }
  const known = JSON.parse((await ask('GET', '/targets', operator)).text) as { id: string, approval?: object }[]
  const approved = known.find(t => t.approval)!
  expect(approved).toBeDefined()
  const { id, ...rest } = approved
  // As it is it may be saved, changed it may not.
  expect(await ask('PUT', `/targets/${id}`, operator, { target: approved })).toMatchObject({ status: 200 })
  const more = { ...rest, id, approval: { ...approved.approval, mostUsers: 100_000 } }
  expect(await ask('PUT', `/targets/${id}`, operator, { target: more })).toMatchObject({ code: 'role' })
  expect(await ask('POST', '/targets', operator, { target: { ...target, approval: approved.approval } })).toMatchObject({ code: 'role' })
  expect(await ask('POST', '/targets', operator, { target })).toMatchObject({ status: 200 })
  expect(await ask('PUT', `/targets/${id}/approval`, operator, { approval: approved.approval })).toMatchObject({ code: 'role' })
  expect(await ask('PUT', `/targets/${id}/approval`, keeper, { approval: approved.approval })).toMatchObject({ status: 200 })
})

it('the live feed is for those who are known, and ends with their session', async () => {
  const base = `${house.url.replace('http', 'ws')}/live`
  const refused = (headers: Headers) =>
    new Promise<number>((resolve) => {
      const socket = new WebSocket(base, { headers })
      socket.on('unexpected-response', (_, response) => resolve(response.statusCode!))
      socket.on('open', () => resolve(101))
      socket.on('error', () => undefined)
    })
  expect(await refused({})).toBe(401)
  expect(await refused({ cookie: 'vornak=AAAA' })).toBe(401)
  const viewer = await signIn('viewer', WORDS.viewer)
  const socket = new WebSocket(base, { headers: viewer })
  await new Promise(resolve => socket.once('message', resolve))
  const closed = new Promise(resolve => socket.once('close', resolve))
  await ask('POST', '/me/sign-out', viewer)
  await closed
})

it('what was done is in the trail, with who and whence; passwords and tokens are not', async () => {
  const keeper = await signIn('keeper', WORDS.keeper)
  await ask('POST', '/me/sign-in', {}, { name: 'keeper', password: 'wrong wrong wrong' })
  const { token } = JSON.parse(
    (await ask('POST', '/me/tokens', keeper, { name: 'nightly', role: 'viewer', days: 1 })).text,
  ) as { token: string }
  const { text } = await ask('GET', '/trail', keeper)
  const { entries } = JSON.parse(text) as TrailView
  expect(entries[0]).toMatchObject({ act: 'makeToken', who: 'keeper', about: 'nightly', outcome: 'done', address: '127.0.0.1' })
  expect(entries[1]).toMatchObject({ act: 'signIn', who: 'somebody unknown', about: 'keeper', outcome: 'password' })
  expect(entries).toContainEqual(expect.objectContaining({ act: 'setApproval', who: 'operator', outcome: 'role' }))
  for (const secret of [token, 'wrong wrong', ...Object.values(WORDS)]) expect(text).not.toContain(secret)
  // What only asks leaves no trace.
  expect(entries.some(e => e.act.startsWith('check'))).toBe(false)
})

it('restarted, it knows its people, and their sessions', async () => {
  const keeper = await signIn('keeper', WORDS.keeper)
  await house.kill('vornak')
  await house.startVornak()
  expect(await ask('GET', '/people', keeper)).toMatchObject({ status: 200 })
  expect(await ask('GET', '/people')).toMatchObject({ status: 401 })
}, 60_000)
