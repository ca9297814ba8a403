/** A pass taken apart: its parts are without gaps and add up to what it took, whatever ran beside what. */
import fc from 'fast-check'
import type { PassExchange, PassRecord } from '../../core/journey/pass-record'
import { drawnPass, sharesOf, spellsOf } from '../../core/result/waterfall'

const exchange = (beganAtMs: number, endedAtMs: number, over: Partial<PassExchange> = {}): PassExchange => ({
  step: 'Look',
  beganAtMs,
  endedAtMs,
  status: 200,
  lookupMs: -1,
  connectMs: -1,
  tlsMs: -1,
  firstByteMs: (endedAtMs - beganAtMs) / 2,
  bytes: 10,
  bytesSent: 0,
  ...over,
})
const pass = (beganAtMs: number, endedAtMs: number, exchanges: PassExchange[]): PassRecord => ({
  keptFor: 'pass',
  group: 'A',
  journeyId: 'look',
  network: 'direct',
  user: 1,
  pass: 1,
  beganAtMs,
  endedAtMs,
  busyMs: 0,
  cut: false,
  exchanges,
})

it('an exchange on a new connection is name, connect, TLS, first byte, body, in this order and without a gap', () => {
  const made = exchange(1000, 1100, { lookupMs: 5, connectMs: 20, tlsMs: 30, firstByteMs: 90 })
  expect(spellsOf(made)).toEqual([
    { kind: 'lookup', fromMs: 1000, toMs: 1005 },
    { kind: 'connect', fromMs: 1005, toMs: 1025 },
    { kind: 'tls', fromMs: 1025, toMs: 1055 },
    { kind: 'wait', fromMs: 1055, toMs: 1090 },
    { kind: 'body', fromMs: 1090, toMs: 1100 },
  ])
})

it('one that was never answered waited to its end; one that connected no further is cut there', () => {
  expect(spellsOf(exchange(0, 50, { firstByteMs: -1 }))).toEqual([{ kind: 'wait', fromMs: 0, toMs: 50 }])
  expect(spellsOf(exchange(0, 10, { connectMs: 30, firstByteMs: -1 }))).toEqual([{ kind: 'connect', fromMs: 0, toMs: 10 }])
})

it('what ran beside each other counts once: waiting before bodies, and these before connecting', () => {
  // 0–100 waiting beside 50–150, of which 50–80 connecting and 140–150 body; then a pause until 200.
  const shares = sharesOf(pass(0, 200, [
    exchange(0, 100, { firstByteMs: 100 }),
    exchange(50, 150, { connectMs: 30, firstByteMs: 90 }),
  ]))
  expect(shares).toEqual({ waitMs: 140, bodyMs: 10, connectingMs: 0, pauseMs: 50 })
})

it('shares add up to the pass; folded, no pause is left between its exchanges', () => {
  const one = fc.record({
    gap: fc.integer({ min: -40, max: 500 }),
    length: fc.integer({ min: 1, max: 300 }),
    connect: fc.integer({ min: -1, max: 50 }),
    first: fc.integer({ min: -1, max: 300 }),
  })
  fc.assert(
    fc.property(fc.array(one, { minLength: 1, maxLength: 12 }), fc.nat(400), (all, after) => {
      let end = 1000
      const exchanges = all.map(({ gap, length, connect, first }) => {
        const began = Math.max(1000, end + gap)
        end = Math.max(end, began + length)
        return exchange(began, began + length, { connectMs: connect, firstByteMs: Math.min(first, length) })
      })
      const first = Math.min(...exchanges.map(e => e.beganAtMs))
      const whole = pass(first, end + after, exchanges)
      const { waitMs, bodyMs, connectingMs, pauseMs } = sharesOf(whole)
      expect(waitMs + bodyMs + connectingMs + pauseMs).toBeCloseTo(whole.endedAtMs - first, 6)
      const plain = drawnPass(whole, false)
      const folded = drawnPass(whole, true)
      expect(plain.lengthMs).toBe(whole.endedAtMs - first)
      expect(folded.lengthMs).toBeCloseTo(Math.max(1, whole.endedAtMs - first - pauseMs), 6)
      expect(folded.exchanges.reduce((ms, e) => ms + e.toMs - e.fromMs, 0)).toBeCloseTo(
        exchanges.reduce((ms, e) => ms + e.endedAtMs - e.beganAtMs, 0),
        6,
      )
      // Nothing is drawn before the one that ended last before it.
      let until = 0
      for (const e of folded.exchanges) {
        expect(e.fromMs).toBeLessThanOrEqual(until + 1e-6)
        until = Math.max(until, e.toMs)
      }
      // Pauses that are told are those that are drawn.
      expect(plain.exchanges.reduce((ms, e) => ms + e.pauseMs, 0)).toBeCloseTo(pauseMs, 6)
    }),
  )
})
