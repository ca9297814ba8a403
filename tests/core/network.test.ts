/** Network profiles: the simulated path against textbook formulas, and what can be no profile. */
import fc from 'fast-check'
import {
  connectMs,
  feltRttMs,
  fetchMs,
  lossyThroughputBps,
  mathisThroughputBps,
  slowStartRounds,
  throughputCeilingBps,
  transferMs,
} from '../../core/network/expected'
import { kernelCommands } from '../../core/network/kernel-commands'
import { Lane, Pipe } from '../../core/network/pipe'
import { PRESETS } from '../../core/network/presets'
import { faultsOfProfile, type NetworkProfile } from '../../core/network/profile'
import { seededRandom } from '../../core/random/seeded'

const profile = (over: Partial<NetworkProfile> = {}): NetworkProfile => ({
  id: 'p',
  name: 'p',
  latencyMs: 40,
  jitterMs: 0,
  loss: 0,
  ...over,
})

/** Sends bytes over a fresh connection. @returns when the last arrives, from when the first could, ms */
function sent(p: NetworkProfile, bytes: number, seed = 1, realRttMs = 0): number {
  const pipe = new Pipe({ ...p, realRttMs, lane: new Lane(p.downBps), random: seededRandom(seed) })
  pipe.send(0, bytes)
  let arrived = 0
  let last = 0
  while (pipe.nextAt < Number.POSITIVE_INFINITY) {
    last = pipe.nextAt
    arrived += pipe.take(last)
  }
  expect(arrived).toBe(bytes)
  return last - p.latencyMs / 2
}
const mean = (p: NetworkProfile, bytes: number, runs: number) =>
  Array.from({ length: runs }, (_, i) => sent(p, bytes, i + 1)).reduce((a, b) => a + b, 0) / runs

describe('slow start', () => {
  it('takes 1, 3 and 7 rounds for 14.6 kB, 100 kB and 1 MB (windows of 10, 20, 40 … segments: RFC 6928)', () => {
    expect([14_600, 100_000, 1_000_000].map(slowStartRounds)).toEqual([1, 3, 7])
  })

  it.each([
    [100_000, 2],
    [1_000_000, 6],
  ])('brings the last of %i bytes %i round trips after the first when nothing else limits', (bytes, trips) => {
    expect(sent(profile(), bytes)).toBeCloseTo(trips * 40)
    expect(transferMs(profile(), 0, bytes)).toBeCloseTo(trips * 40)
  })

  it.each([
    [100_000, 5e6, 40],
    [1_000_000, 5e6, 40],
    [1_000_000, 20e6, 600],
    [50_000, 1e6, 200],
  ])(
    'with a bottleneck is the textbook latency: %i bytes at %f bit/s and %f ms (Kurose and Ross, TCP latency modeling)',
    (bytes, bps, latencyMs) => {
      const p = profile({ downBps: bps, latencyMs })
      // Their closed form: O/R + P·(RTT + S/R) − W·(2^P − 1)·S/R with P = min(Q, K − 1), for a first window of W = 10.
      const segmentMs = (1460 * 8000) / bps
      const K = slowStartRounds(bytes)
      const Q = Math.floor(Math.log2(1 + latencyMs / segmentMs) - Math.log2(10)) + 1
      const P = Math.max(0, Math.min(Q, K - 1))
      const byBook = (bytes * 8000) / bps + P * (latencyMs + segmentMs) - 10 * (2 ** P - 1) * segmentMs
      expect(sent(p, bytes)).toBeCloseTo(byBook, 3)
      expect(transferMs(p, 0, bytes)).toBeCloseTo(byBook, 3)
    },
  )

  it('begins anew after a pause, and goes on where none was (RFC 5681 §4.1)', () => {
    const timeOf = (pauseMs: number) => {
      const pipe = new Pipe({ ...profile(), realRttMs: 0, lane: new Lane(undefined), random: seededRandom(1) })
      pipe.send(0, 100_000)
      while (pipe.nextAt < Infinity) pipe.take(pipe.nextAt)
      const at = 100 + pauseMs
      pipe.send(at, 100_000)
      let last = 0
      while (pipe.nextAt < Infinity) pipe.take((last = pipe.nextAt))
      return last - at
    }
    // A window of 80 segments takes 69 at once; one of 10 takes three rounds.
    expect(timeOf(50)).toBeCloseTo(20)
    expect(timeOf(1000)).toBeCloseTo(100)
  })
})

describe('loss', () => {
  it('keeps a long transfer at (MSS ÷ RTT)·√1.5 ÷ √p: 1.43 Mbit/s for 1,460 B, 100 ms, 1 % (Mathis et al. 1997)', () => {
    expect(mathisThroughputBps(100, 0.01) / 1e6).toBeCloseTo(1.43, 2)
    const bytes = 6_000_000
    const rate = (bytes * 8000) / mean(profile({ latencyMs: 100, loss: 0.01 }), bytes, 12)
    expect(rate / mathisThroughputBps(100, 0.01)).toBeGreaterThan(0.9)
    expect(rate / mathisThroughputBps(100, 0.01)).toBeLessThan(1.1)
  })

  it.each([
    [200, 0.02],
    [100, 0.05],
  ])('with time-outs stays near Padhye et al. 1998 at %i ms and %f', (latencyMs, loss) => {
    const bytes = 5_000_000
    const rate = (bytes * 8000) / mean(profile({ latencyMs, loss }), bytes, 30)
    expect(rate / lossyThroughputBps(latencyMs, loss)).toBeGreaterThan(0.85)
    expect(rate / lossyThroughputBps(latencyMs, loss)).toBeLessThan(1.15)
  })

  it.each(PRESETS.filter(p => p.loss > 0).flatMap(p => [100_000, 1_000_000].map(bytes => [p.id, bytes, p] as const)))(
    'on %s is what the expectation says for %i bytes',
    (_, bytes, p) => {
      const measured = mean({ ...p, jitterMs: 0 }, bytes, 150)
      const expected = transferMs({ ...p, jitterMs: 0 }, 0, bytes)
      expect(Math.abs(measured - expected) / expected).toBeLessThan(0.15)
    },
  )

  it('costs one round trip where enough follows, a time-out of the round trip and 200 ms where nothing does (RFC 6298, Linux’s floor)', () => {
    // The first of 10 segments is lost, no other.
    const lossAt = (n: number) => {
      let turn = 0
      return () => (turn++ === n ? 0 : 0.99)
    }
    const run = (lost: number) => {
      const pipe = new Pipe({ ...profile(), loss: 0.01, realRttMs: 0, lane: new Lane(undefined), random: lossAt(lost) })
      pipe.send(0, 14_600)
      let last = 0
      while (pipe.nextAt < Infinity) pipe.take((last = pipe.nextAt))
      return last
    }
    expect(run(0)).toBeCloseTo(20 + 40)
    expect(run(9)).toBeCloseTo(20 + 240)
  })
})

describe('the path', () => {
  it('keeps order and loses no byte, whatever the profile and however the bytes come', () => {
    fc.assert(
      fc.property(
        fc.record({
          latencyMs: fc.integer({ min: 0, max: 300 }),
          jitterMs: fc.integer({ min: 0, max: 60 }),
          loss: fc.double({ min: 0, max: 0.2, noNaN: true }),
          downBps: fc.option(fc.integer({ min: 50_000, max: 1e8 }), { nil: undefined }),
        }),
        fc.array(fc.tuple(fc.integer({ min: 0, max: 300 }), fc.integer({ min: 1, max: 40_000 })), {
          minLength: 1,
          maxLength: 12,
        }),
        fc.integer(),
        (p, writes, seed) => {
          const pipe = new Pipe({ ...p, realRttMs: 0.3, lane: new Lane(p.downBps), random: seededRandom(seed) })
          let at = 0
          let arrived = 0
          let before = 0
          for (const [pause, bytes] of writes) {
            at += pause
            while (pipe.nextAt <= at) arrived += pipe.take(pipe.nextAt)
            pipe.send(at, bytes)
          }
          while (pipe.nextAt < Infinity) {
            expect(pipe.nextAt).toBeGreaterThanOrEqual(Math.min(before, pipe.nextAt))
            before = pipe.nextAt
            arrived += pipe.take(before)
          }
          expect(arrived).toBe(writes.reduce((sum, [, bytes]) => sum + bytes, 0))
          expect(pipe.bytesUnderway).toBe(0)
        },
      ),
      { numRuns: 200 },
    )
  })

  it('draws jitter once a burst: its mean stays that of the latency', () => {
    const times = Array.from({ length: 4000 }, (_, i) => sent(profile({ latencyMs: 40, jitterMs: 10 }), 14_600, i + 1))
    expect(times.reduce((a, b) => a + b, 0) / times.length).toBeCloseTo(0, 0)
    // Half the variance each way.
    expect(Math.sqrt(times.reduce((a, b) => a + b * b, 0) / times.length)).toBeCloseTo(10 * Math.SQRT1_2, 0)
  })

  it('has one line for all of a user’s connections', () => {
    const lane = new Lane(8e6)
    const pipes = [1, 2].map(() => new Pipe({ ...profile(), realRttMs: 0, lane, random: seededRandom(1) }))
    for (const pipe of pipes) pipe.send(0, 14_600)
    expect(pipes[1]!.nextAt).toBeCloseTo(20 + 14.6 + 1.46)
  })
})

describe('expectations', () => {
  it('count one felt round trip to connect, under TLS 1.3 one more (RFC 8446), one to ask, then the transfer', () => {
    const p = profile({ latencyMs: 60 })
    expect(feltRttMs(p, 5)).toBe(65)
    expect([connectMs(p, 5, false), connectMs(p, 5, true)]).toEqual([65, 130])
    expect(fetchMs(p, 5, 14_600, true)).toBe(195)
  })

  it('add the seconds lost handshake packets wait for (RFC 6298 §2.1)', () => {
    // Either packet lost: 1 − 0.9² = 0.19; Σ (2^k − 1)·0.19^k·0.81 s = 0.19 ÷ (1 − 0.38) s.
    expect(connectMs(profile({ loss: 0.1 }), 0, false)).toBeCloseTo(40 + (1000 * 0.19) / 0.62)
  })

  it('take the smaller of line and law as the ceiling', () => {
    expect(throughputCeilingBps(profile({ downBps: 5e6 }), 0)).toBe(5e6)
    expect(throughputCeilingBps(profile(), 0)).toBe(Infinity)
    expect(throughputCeilingBps(profile({ downBps: 5e9, loss: 0.01 }), 0)).toBeLessThan(4e6)
  })
})

describe('profiles', () => {
  it('that ship have no fault', () => {
    for (const p of PRESETS) expect([p.id, faultsOfProfile(p)]).toEqual([p.id, []])
  })

  it.each([
    [{ loss: 1 }, 'loss', 'pulled plug'],
    [{ loss: 0.5 }, 'loss', '30 %'],
    [{ loss: -0.1 }, 'loss', 'from 0'],
    [{ downBps: 0 }, 'downBps', 'lets nothing through'],
    [{ upBps: 10 }, 'upBps', '1 kbit/s'],
    [{ latencyMs: -1 }, 'latencyMs', 'from 0'],
    [{ latencyMs: Number.NaN }, 'latencyMs', 'from 0'],
    [{ jitterMs: 90 }, 'jitterMs', 'cut at zero'],
    [{ id: 'Über' }, 'id', 'lower-case'],
    [{ id: 'direct' }, 'id', 'no profile'],
    [{ name: ' ' }, 'name', 'name'],
  ] as const)('with %j are refused with the reason', (over, field, words) => {
    const faults = faultsOfProfile(profile(over))
    expect(faults).toHaveLength(1)
    expect(faults[0]!.field).toBe(field)
    expect(faults[0]!.sentence).toContain(words)
  })

  it('become commands for a kernel: half the latency each way, percent, kbit', () => {
    const text = kernelCommands(profile({ jitterMs: 10, loss: 0.015, downBps: 5e6, upBps: 1e6 }), 'ens3')
    expect(text).toContain(
      'tc qdisc replace dev ens3 root netem delay 20ms 7.071ms distribution normal loss 1.5% rate 1000kbit',
    )
    expect(text).toContain('dev ifb0 root netem delay 20ms 7.071ms distribution normal loss 1.5% rate 5000kbit')
  })
})
