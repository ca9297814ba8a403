/** Enrolment: a token works once, a key proves who comes back, and each refusal says what to do. */
import { generateKeyPairSync, sign } from 'node:crypto'
import { join } from 'node:path'
import { realClock } from '../../control/clock'
import { GeneratorHub, hashOf, type HubListener } from '../../control/fleet/generator-hub'
import { FREE } from '../../core/fleet/cost'
import { machineStore } from '../../control/store/machines'
import { openStore } from '../../control/store/open'
import { runStore } from '../../control/store/runs'
import { PROTOCOL_VERSION } from '../../protocol/version'
import type { FromGenerator, ToGenerator } from '../../protocol/messages'
import { ownFolder } from '../build/folder'
import { runDocument } from '../build/plans'

const store = openStore(join(ownFolder(), 'hub.db'))
afterAll(() => {
  hub.stop()
  store.close()
})
const machines = machineStore(store)
const runId = runStore(store).create('p', runDocument(), 0)
const keys = generateKeyPairSync('ed25519')
const facts = { hostname: 'h', platform: 'p', node: 'n', cores: 1, memoryBytes: 1, descriptors: 1 }
const enrolment = (token: string, version = PROTOCOL_VERSION): FromGenerator => ({ kind: 'enrol', version, token, publicKey: keys.publicKey.export({ type: 'spki', format: 'pem' }).toString(), facts })
let count = 0

/** A machine with a token of its own. */
function machine(expiresIn = 60_000): { id: string, token: string } {
  const id = `m${++count}`
  machines.create({ id, runId, provider: 'n', region: 'r', location: 'REY', place: count, name: id, type: 't', idempotencyKey: id, askedAt: Date.now(), leaseEndsAt: Date.now() + 60_000, price: FREE })
  machines.addEnrolment(hashOf(`token-${id}`), id, Date.now() + expiresIn)
  return { id, token: `token-${id}` }
}

const heard = { enrolled: [] as string[], reused: [] as string[], frames: [] as string[], messages: [] as string[] }
const listener: HubListener = {
  onEnrolled: id => heard.enrolled.push(id), onConnected: () => { /* seen in connections */ }, onDisconnected: () => { /* seen in connections */ },
  onMessage: (_, m) => heard.messages.push(m.kind), onFrame: id => heard.frames.push(id), onTokenReused: id => heard.reused.push(id),
}
const hub = new GeneratorHub(machines, realClock, 3, listener)

/** Connects; what the hub said is in `said`. */
function connect() {
  const said: ToGenerator[] = []
  const state = { open: true }
  const link = hub.accept({ send: json => said.push(JSON.parse(json) as ToGenerator), close: () => { state.open = false } })
  const say = (message: FromGenerator | string | Uint8Array) => link.message(typeof message === 'string' || message instanceof Uint8Array ? message : JSON.stringify(message))
  const refusal = () => said.find((m): m is Extract<ToGenerator, { kind: 'refused' }> => m.kind === 'refused')
  const nonce = () => (said[0] as Extract<ToGenerator, { kind: 'hello' }>).nonce
  return { said, state, say, refusal, nonce, closed: () => link.closed() }
}

describe('enrolment', () => {
  it('greets with version and epoch, takes a token once, and begins to beat', () => {
    const m = machine()
    const c = connect()
    expect(c.said[0]).toMatchObject({ kind: 'hello', version: PROTOCOL_VERSION, epoch: 3 })
    c.say(enrolment(m.token))
    expect(c.said.map(x => x.kind)).toEqual(['hello', 'enrolled', 'beat'])
    expect(heard.enrolled).toContain(m.id)
    c.say({ kind: 'beatReply', t1: Date.now(), t2: Date.now() + 500, t3: Date.now() + 500 })
    expect(hub.connections.get(m.id)!.clock.samples).toBe(1)
    c.say(Uint8Array.of(1))
    expect(heard.frames).toContain(m.id)
    c.closed()
    expect(hub.connections.has(m.id)).toBe(false)
  })

  it('refuses a token that is unknown, expired or used, and tells of the second use', () => {
    const unknown = connect()
    unknown.say(enrolment('nonsense'))
    expect(unknown.refusal()).toMatchObject({ code: 'token', sentence: expect.stringContaining('not known here') })
    expect(unknown.state.open).toBe(false)
    const late = connect()
    late.say(enrolment(machine(-1).token))
    expect(late.refusal()).toMatchObject({ code: 'token-expired' })
    const m = machine()
    connect().say(enrolment(m.token))
    const second = connect()
    second.say(enrolment(m.token))
    expect(second.refusal()).toMatchObject({ code: 'token-used' })
    expect(heard.reused).toEqual([m.id])
  })

  it('refuses another protocol version with both numbers', () => {
    const c = connect()
    c.say(enrolment(machine().token, PROTOCOL_VERSION + 1))
    expect(c.refusal()!.sentence).toContain(`version ${PROTOCOL_VERSION + 1} of the protocol, the controller version ${PROTOCOL_VERSION}`)
  })

  it('takes a generator back that signs the nonce, and nobody else', () => {
    const m = machine()
    const first = connect()
    first.say(enrolment(m.token))
    const back = connect()
    back.say({ kind: 'resume', version: PROTOCOL_VERSION, generatorId: m.id, signature: sign(null, Buffer.from(back.nonce()), keys.privateKey).toString('base64'), state: 'loading', runId: '1' })
    expect(hub.connections.get(m.id)!.work).toEqual({ state: 'loading', runId: '1' })
    expect(first.state.open).toBe(false)
    const thief = connect()
    thief.say({ kind: 'resume', version: PROTOCOL_VERSION, generatorId: m.id, signature: sign(null, Buffer.from(thief.nonce()), generateKeyPairSync('ed25519').privateKey).toString('base64'), state: 'loading', runId: '1' })
    expect(thief.refusal()).toMatchObject({ code: 'proof' })
    const replayed = connect()
    replayed.say({ kind: 'resume', version: PROTOCOL_VERSION, generatorId: m.id, signature: sign(null, Buffer.from(back.nonce()), keys.privateKey).toString('base64'), state: 'loading', runId: '1' })
    expect(replayed.refusal()).toMatchObject({ code: 'proof' })
  })

  it('lets nothing in before the introduction, and no rubbish after it', () => {
    const early = connect()
    early.say({ kind: 'beatReply', t1: 1, t2: 1, t3: 1 })
    expect(early.refusal()).toMatchObject({ code: 'order' })
    const c = connect()
    c.say(enrolment(machine().token))
    c.say('{"kind":"dance"}')
    expect(c.refusal()!.sentence).toContain('dance')
    expect(c.state.open).toBe(false)
  })
})
