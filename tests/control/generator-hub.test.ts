/** Enrolment: a token works once, a key proves that the same comes back, and each refusal says what to do. */
import { generateKeyPairSync, sign } from 'node:crypto'
import { join } from 'node:path'
import { realClock } from '../../control/clock'
import { GeneratorHub, hashOf, type HubListener } from '../../control/link/generator-hub'
import { FREE } from '../../core/offers/cost'
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
const enrolment = (token: string, version = PROTOCOL_VERSION): FromGenerator => ({
  kind: 'enrol',
  version,
  token,
  publicKey: keys.publicKey.export({ type: 'spki', format: 'pem' }).toString(),
  facts,
})
let count = 0

/** A machine with a token of its own. */
function machine(expiresIn = 60_000): { id: string, token: string } {
  const id = `m${++count}`
  machines.create({
    id,
    runId,
    provider: 'n',
    region: 'r',
    location: 'REY',
    place: count,
    name: id,
    type: 't',
    idempotencyKey: id,
    askedAt: Date.now(),
    leaseEndsAt: Date.now() + 60_000,
    price: FREE,
  })
  machines.addEnrolment(hashOf(`token-${id}`), id, Date.now() + expiresIn)
  return { id, token: `token-${id}` }
}

const heard = {
  enrolled: [] as string[],
  reused: [] as string[],
  frames: [] as string[],
  messages: [] as string[],
  unreadable: [] as string[],
}
const listener: HubListener = {
  onEnrolled: id => heard.enrolled.push(id),
  onConnected: () => {
    /* seen in connections */
  },
  onDisconnected: () => {
    /* seen in connections */
  },
  onMessage: (_, m) => heard.messages.push(m.kind),
  onFrame: id => heard.frames.push(id),
  onTokenReused: id => heard.reused.push(id),
  onUnreadable: (_, sentence) => heard.unreadable.push(sentence),
}
const hub = new GeneratorHub(machines, realClock, 3, listener)

/** Connects; what the hub said is in `said`. */
function connect() {
  const said: ToGenerator[] = []
  const state = { open: true }
  const link = hub.accept({
    send: json => said.push(JSON.parse(json) as ToGenerator),
    close: () => {
      state.open = false
    },
  })
  const say = (message: FromGenerator | string | Uint8Array) =>
    link.message(typeof message === 'string' || message instanceof Uint8Array ? message : JSON.stringify(message))
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
    // Of a beat that was never sent it says nothing.
    c.say({ kind: 'beatReply', t1: Date.now() - 5000, t2: Date.now() + 500, t3: Date.now() + 500 })
    expect(hub.connections.get(m.id)!.clock.samples).toBe(0)
    const { t1 } = c.said.find(x => x.kind === 'beat') as { t1: number }
    c.say({ kind: 'beatReply', t1, t2: t1 + 500, t3: t1 + 500 })
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

  it('takes up again whose answer was lost, as its key proves; nobody else with that token or that key', () => {
    const m = machine()
    const again = (by = keys) => {
      const c = connect()
      const { nonce } = c.said[0] as Extract<ToGenerator, { kind: 'hello' }>
      const signature = sign(null, Buffer.from(nonce), by.privateKey).toString('base64')
      c.say({ ...(enrolment(m.token) as Extract<FromGenerator, { kind: 'enrol' }>), signature })
      return c
    }
    again().closed()
    const second = again()
    expect(second.refusal()).toBeUndefined()
    expect(hub.connections.has(m.id)).toBe(true)
    expect(heard.enrolled.filter(id => id === m.id)).toEqual([m.id])
    // One that has copied token and public key cannot sign.
    expect(again(generateKeyPairSync('ed25519')).refusal()).toMatchObject({ code: 'token-used' })
  })

  it('ends no more than its own link, whatever is brought about by what a generator says', () => {
    const [one, other] = [machine(), machine()].map(({ token }) => {
      const c = connect()
      c.say(enrolment(token))
      return c
    })
    const { onMessage, onFrame } = listener
    listener.onMessage = listener.onFrame = () => {
      throw new Error('nobody thought of this')
    }
    one!.say({ kind: 'trouble', sentence: 'x' })
    expect([one!.state.open, other!.state.open]).toEqual([false, true])
    expect(heard.unreadable.at(-1)).toBe('nobody thought of this')
    other!.say(Uint8Array.of(1))
    expect(other!.state.open).toBe(false)
    Object.assign(listener, { onMessage, onFrame })
  })

  it.each([
    ['beyond what can be counted', { kind: 'want', file: 'f', from: 2 ** 53, to: 2 ** 53 + 2 }],
    ['far beyond any file', { kind: 'want', file: 'f', from: 2 ** 41, to: 2 ** 41 + 1 }],
    ['before its beginning', { kind: 'want', file: 'f', from: -1, to: 5 }],
  ])('closes the link of one that wants a place %s', (_, wish) => {
    const c = connect()
    c.say(enrolment(machine().token))
    c.say(wish as FromGenerator)
    expect(c.state.open).toBe(false)
    expect(heard.unreadable.at(-1)).toContain('want')
  })

  it('refuses another protocol version with both numbers', () => {
    const c = connect()
    c.say(enrolment(machine().token, PROTOCOL_VERSION + 1))
    expect(c.refusal()!.sentence).toContain(
      `version ${PROTOCOL_VERSION + 1} of the protocol, the controller version ${PROTOCOL_VERSION}`,
    )
  })

  it('takes a generator back that signs the nonce, and nobody else', () => {
    const m = machine()
    const first = connect()
    first.say(enrolment(m.token))
    const back = connect()
    back.say({
      kind: 'resume',
      version: PROTOCOL_VERSION,
      generatorId: m.id,
      signature: sign(null, Buffer.from(back.nonce()), keys.privateKey).toString('base64'),
      state: 'loading',
      runId: '1',
    })
    expect(hub.connections.get(m.id)!.work).toEqual({ state: 'loading', runId: '1' })
    expect(first.state.open).toBe(false)
    const thief = connect()
    thief.say({
      kind: 'resume',
      version: PROTOCOL_VERSION,
      generatorId: m.id,
      signature: sign(null, Buffer.from(thief.nonce()), generateKeyPairSync('ed25519').privateKey).toString('base64'),
      state: 'loading',
      runId: '1',
    })
    expect(thief.refusal()).toMatchObject({ code: 'proof' })
    const replayed = connect()
    replayed.say({
      kind: 'resume',
      version: PROTOCOL_VERSION,
      generatorId: m.id,
      signature: sign(null, Buffer.from(back.nonce()), keys.privateKey).toString('base64'),
      state: 'loading',
      runId: '1',
    })
    expect(replayed.refusal()).toMatchObject({ code: 'proof' })
  })

  it('lets nothing in before the introduction, and no rubbish after it', () => {
    const early = connect()
    early.say({ kind: 'beatReply', t1: 1, t2: 1, t3: 1 })
    expect(early.refusal()).toMatchObject({ code: 'order' })
    const c = connect()
    c.say(enrolment(machine().token))
    c.say('{"kind":"dance"}')
    // The link is closed, the generator not refused: what was damaged on its way comes again over a new one.
    expect([c.refusal(), c.state.open]).toEqual([undefined, false])
    expect(heard.unreadable.at(-1)).toContain('dance')
  })
})

describe('silence', () => {
  /** A hub on a clock of its own, with one machine enrolled. */
  function quiet() {
    let now = 1_000_000
    const due: { at: number, call: () => void }[] = []
    const clock = {
      now: () => now,
      after: (ms: number, call: () => void) => (
        due.push({ at: now + ms, call }),
        {
          cancel() {
            /* never */
          },
        }
      ),
      every: () => ({
        cancel() {
          /* never */
        },
      }),
    }
    const own = new GeneratorHub(machines, clock, 3, listener, 60_000)
    const m = machine(10 ** 12)
    const said: ToGenerator[] = []
    const state = { dropped: false }
    const link = own.accept({
      send: json => said.push(JSON.parse(json) as ToGenerator),
      close() {
        /* it hears nothing */
      },
      drop: () => {
        state.dropped = true
      },
    })
    const say = (message: FromGenerator) => link.message(JSON.stringify(message))
    say(enrolment(m.token))
    const move = (
      ms: number,
      each = () => {
        /* nothing */
      },
    ) => {
      for (const end = now + ms; now < end;) {
        now += 100
        for (const d of due.splice(0))
          if (d.at <= now) d.call()
          else due.push(d)
        each()
      }
    }
    const beats = () => said.filter((x): x is Extract<ToGenerator, { kind: 'beat' }> => x.kind === 'beat')
    return { own, m, said, state, say, move, beats, now: () => now }
  }

  it('of 10 s has its link dropped, so that the generator opens another', () => {
    const q = quiet()
    q.move(9900)
    expect([q.state.dropped, q.own.connections.size]).toEqual([false, 1])
    q.move(1200)
    expect([q.state.dropped, q.own.connections.size]).toEqual([true, 0])
    expect(q.now() - q.own.heardAt(q.m.id)).toBeGreaterThan(10_000)
  })

  it('is counted from the last answer the generator knows was heard: frames that come one way only lengthen no grace', () => {
    const q = quiet()
    let answered = 0
    // It answers for 5 s; then its frames come through, but it hears nothing and answers nothing.
    q.move(5000, () => {
      for (; answered < q.beats().length; answered++)
        q.say({ kind: 'beatReply', t1: q.beats()[answered]!.t1, t2: 7, t3: 100 + answered })
    })
    const lastAnswer = q.now()
    expect(q.beats().at(-1)!.echo).toBe(100 + answered - 2)
    q.move(30_000, () => q.say({ kind: 'trouble', sentence: 'still here' }))
    expect(q.now() - q.own.heardAt(q.m.id)).toBeLessThan(200)
    expect(q.own.graceOverAt(q.m.id) - lastAnswer).toBeGreaterThan(60_000)
    expect(q.own.graceOverAt(q.m.id) - lastAnswer).toBeLessThanOrEqual(62_000)
  })
})
