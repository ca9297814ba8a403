/** The link, the spool and the lease: what keeps samples safe, and a generator from going on for ever. */
import type { AddressInfo } from 'node:net'
import { verify } from 'node:crypto'
import { WebSocketServer, type WebSocket } from 'ws'
import { Lease } from '../../generator/link/lease'
import { Link, type LinkOptions } from '../../generator/link/link'
import { webSocketTransport } from '../../generator/link/transport'
import { Spool, TRICKLE_BYTES } from '../../generator/link/spool'
import { PROTOCOL_VERSION } from '../../protocol/version'
import type { FromGenerator, ToGenerator } from '../../protocol/messages'

const facts = { hostname: 'h', platform: 'p', node: 'n', cores: 1, memoryBytes: 1, descriptors: 1 }

describe('the spool', () => {
  it('keeps frames until they are acknowledged, and sends them again over a new link', () => {
    const sent: number[] = []
    let open = true
    const spool = new Spool((bytes) => {
      if (open) sent.push(bytes[0]!)
      return open
    })
    const add = (n: number, worker = 0) => spool.add({ incarnation: 1, worker, sequence: n, bytes: Uint8Array.of(n) })
    add(1)
    add(2)
    open = false
    add(3)
    add(4, 1)
    expect(sent).toEqual([1, 2])
    spool.acknowledge(1, 0, 1)
    open = true
    spool.startOver()
    expect(sent).toEqual([1, 2, 2, 3, 4])
    spool.acknowledge(1, 0, 9)
    expect(spool.waiting).toBe(1)
    spool.acknowledge(2, 1, 9)
    expect(spool.waiting).toBe(1)
    spool.acknowledge(1, 1, 4)
    expect(spool.waiting).toBe(0)
  })

  it('sends what it kept as it is acknowledged; what comes in goes out, though nothing is', () => {
    const sent: number[] = []
    let open = false
    const spool = new Spool((bytes) => {
      if (open) sent.push(bytes[0]!)
      return open
    })
    const KB = 1024
    const add = (n: number) => {
      const bytes = new Uint8Array(64 * KB)
      bytes[0] = n
      spool.add({ incarnation: 1, worker: 0, sequence: n, bytes })
    }
    for (let n = 1; n <= 40; n++) add(n)
    open = true
    spool.startOver()
    expect(sent).toEqual([1, 2, 3, 4, 5, 6, 7, 8])
    spool.pump()
    expect(sent).toHaveLength(8)
    spool.acknowledge(1, 0, 3)
    expect(sent.slice(8)).toEqual([9, 10, 11])
    // Not one more is acknowledged: as much goes out as comes in, and a little every second.
    add(41)
    expect(sent.at(-1)).toBe(12)
    spool.pump(TRICKLE_BYTES)
    expect(sent.at(-1)).toBe(13)
    for (let second = 0; second < 100; second++) spool.pump(TRICKLE_BYTES)
    expect(sent).toEqual(Array.from({ length: 41 }, (_, i) => i + 1))
    spool.acknowledge(1, 0, 41)
    expect(spool.waiting).toBe(0)
    for (let n = 42; n <= 49; n++) add(n)
    expect(sent.slice(41)).toEqual([42, 43, 44, 45, 46, 47, 48, 49])
  })
})

describe('the lease', () => {
  it('ends by itself on the monotonic clock, and tells of silence once', async () => {
    let silences = 0
    const began = performance.now()
    await new Promise<void>((ended) => {
      const lease = new Lease(
        900,
        300,
        began,
        () => {
          silences++
        },
        () => {
          lease.stop()
          ended()
        },
      )
    })
    expect(performance.now() - began).toBeGreaterThanOrEqual(900)
    expect(silences).toBe(1)
  })

  it('is renewed, and silence is broken, by whatever is heard', async () => {
    let ended = false
    let silences = 0
    const lease = new Lease(
      400,
      600,
      performance.now(),
      () => {
        silences++
      },
      () => {
        ended = true
      },
    )
    for (let i = 0; i < 8; i++) {
      await new Promise(r => setTimeout(r, 100))
      lease.renew(400)
      lease.heard(performance.now())
    }
    lease.stop()
    expect([ended, silences]).toEqual([false, 0])
  })
})

/** A controller that says what a test wants. */
async function controller(
  onConnection: (socket: WebSocket, say: (m: ToGenerator) => void, heard: Promise<FromGenerator>, n: number) => void,
) {
  const server = new WebSocketServer({ port: 0, host: '127.0.0.1', path: '/link' })
  await new Promise(r => server.once('listening', r))
  let n = 0
  server.on('connection', (socket) => {
    const heard = new Promise<FromGenerator>(r =>
      socket.once('message', (d: Buffer) => r(JSON.parse(d.toString()) as FromGenerator)),
    )
    onConnection(socket, m => socket.send(JSON.stringify(m)), heard, ++n)
  })
  return {
    address: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
    close: () => {
      for (const c of server.clients) c.terminate()
      server.close()
    },
  }
}
const linkTo = (address: string, over: Partial<LinkOptions> = {}) =>
  new Link({
    transport: webSocketTransport(address),
    token: 't',
    facts,
    work: () => ({ state: 'loading', runId: '3' }),
    onMessage: () => {
      /* not read */
    },
    onUp: () => {
      /* not read */
    },
    onRefused: () => {
      /* not read */
    },
    ...over,
  })

describe('the link', () => {
  it('enrols once, then comes back with a signature over the fresh nonce', async () => {
    const heard: FromGenerator[] = []
    let up = 0
    let link!: Link
    await new Promise<void>((done) => {
      void controller((socket, say, first, n) => {
        say({ kind: 'hello', version: PROTOCOL_VERSION, epoch: n, nonce: `nonce-${n}` })
        void first.then((message) => {
          heard.push(message)
          say({ kind: 'enrolled', generatorId: 'g1', epoch: n, leaseMs: 1000, graceMs: 1000 })
          if (n === 1) setTimeout(() => socket.terminate(), 30)
        })
      }).then(({ address, close }) => {
        link = linkTo(address, {
          onUp: () => {
            if (++up < 2) return
            link.stop()
            close()
            done()
          },
        })
        link.connect()
      })
    })
    expect(heard[0]).toMatchObject({ kind: 'enrol', token: 't', version: PROTOCOL_VERSION })
    expect(heard[1]).toMatchObject({ kind: 'resume', generatorId: 'g1', state: 'loading', runId: '3' })
    const [first, second] = heard as [
      Extract<FromGenerator, { kind: 'enrol' }>,
      Extract<FromGenerator, { kind: 'resume' }>,
    ]
    expect(verify(null, Buffer.from('nonce-2'), first.publicKey, Buffer.from(second.signature, 'base64'))).toBe(true)
  })

  it.each<[string, (say: (m: ToGenerator) => void) => void, string]>([
    [
      'a controller of another protocol version',
      say => say({ kind: 'hello', version: PROTOCOL_VERSION + 1, epoch: 1, nonce: 'n' }),
      'start both from the same release',
    ],
    [
      'a wrong token',
      say => say({ kind: 'refused', code: 'token', sentence: 'This token is not known here.' }),
      'not known here',
    ],
  ])('gives up on %s, with the words', async (_, greet, words) => {
    const sentence = await new Promise<string>((resolve) => {
      void controller((_s, say) => greet(say)).then(({ address, close }) => {
        linkTo(address, {
          onRefused: (_code, said) => {
            close()
            resolve(said)
          },
        }).connect()
      })
    })
    expect(sentence).toContain(words)
  })

  it('does not obey a controller of an earlier epoch', async () => {
    const enrolments: number[] = []
    let link!: Link
    await new Promise<void>((done) => {
      void controller((socket, say, first, n) => {
        say({ kind: 'hello', version: PROTOCOL_VERSION, epoch: n === 2 ? 4 : 5, nonce: 'n' })
        void first.then(() => {
          enrolments.push(n)
          say({ kind: 'enrolled', generatorId: 'g', epoch: 5, leaseMs: 1000, graceMs: 1000 })
          if (n === 1) setTimeout(() => socket.terminate(), 20)
        })
      }).then(({ address, close }) => {
        let ups = 0
        link = linkTo(address, {
          onUp: () => {
            if (++ups < 2) return
            link.stop()
            close()
            done()
          },
        })
        link.connect()
      })
    })
    expect(enrolments).toEqual([1, 3])
  })

  it('opens a new one when it is silent, though nobody has closed it; after the work too', async () => {
    const ups: number[] = []
    let link!: Link
    await new Promise<void>((done) => {
      void controller((_, say, first, n) => {
        say({ kind: 'hello', version: PROTOCOL_VERSION, epoch: n, nonce: 'n' })
        // Never a beat: the line is dead from here on.
        void first.then(() => say({ kind: 'enrolled', generatorId: 'g', epoch: n, leaseMs: 60_000, graceMs: 60_000 }))
      }).then(({ address, close }) => {
        link = linkTo(address, {
          work: () => ({ state: 'finished', runId: '3' }),
          onUp: () => {
            ups.push(performance.now())
            if (ups.length < 2) return
            link.stop()
            close()
            done()
          },
        })
        link.connect()
      })
    })
    expect(ups[1]! - ups[0]!).toBeGreaterThan(9500)
    expect(ups[1]! - ups[0]!).toBeLessThan(13_000)
  }, 30_000)

  it('is opened anew after words that cannot be read, and after a refusal they may have brought about; five times', async () => {
    const seen: string[] = []
    let refused = ''
    let link!: Link
    await new Promise<void>((done) => {
      void controller((socket, say, first, n) => {
        say({ kind: 'hello', version: PROTOCOL_VERSION, epoch: 1, nonce: 'n' })
        void first.then((message) => {
          seen.push(message.kind)
          if (n > 1) return say({ kind: 'refused', code: 'proof', sentence: 'could not prove who it is' })
          say({ kind: 'enrolled', generatorId: 'g', epoch: 1, leaseMs: 60_000, graceMs: 60_000 })
          socket.send('{"kind":"be\u0000t"')
        })
      }).then(({ address, close }) => {
        link = linkTo(address, {
          onRefused: (_, sentence) => {
            refused = sentence
            close()
            done()
          },
        })
        link.connect()
      })
    })
    expect([seen, refused]).toEqual([['enrol', ...new Array<string>(6).fill('resume')], 'could not prove who it is'])
  }, 30_000)
})
