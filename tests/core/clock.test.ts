/** Outside check: the offset and delay formulas of RFC 5905, §8. */
import { ClockEstimate, offsetOf } from '../../core/clock/offset'
import { seededRandom } from '../../core/random/seeded'

describe('clock offset', () => {
  it('follows RFC 5905: θ = ½[(T2−T1)+(T3−T4)], δ = (T4−T1)−(T3−T2)', () => {
    expect(offsetOf(1000, 1510, 1512, 1022)).toEqual({ atMs: 1022, offsetMs: 500, delayMs: 20 })
  })

  it.each([
    [300_000, 0],
    [-300_000, 100e-6],
    [12, -100e-6],
  ])('an injected offset of %d ms and drift of %d come back within the uncertainty', (offset, drift) => {
    const random = seededRandom(7)
    const estimate = new ClockEstimate()
    for (let t = 0; t < 600_000; t += 1000) {
      const there = (at: number) => at + offset + drift * at
      const out = 1 + random() * 20
      const back = 1 + random() * 20
      estimate.add(offsetOf(t, there(t + out), there(t + out + 0.2), t + out + 0.2 + back))
      if (t > 10_000)
        expect(Math.abs(estimate.offsetAt(t) - (offset + drift * t))).toBeLessThanOrEqual(estimate.uncertaintyAt(t))
    }
    expect(Math.abs(estimate.drift() - drift)).toBeLessThan(20e-6)
  })

  it('refuses a stamp that cannot be, and does not move for one that contradicts all others', () => {
    const estimate = new ClockEstimate()
    const beat = (t: number, offset: number) => estimate.add(offsetOf(t, t + 5 + offset, t + 5.2 + offset, t + 10.2))
    for (let t = 0; t < 30_000; t += 1000) beat(t, 40)
    // The answer “was sent” long before it was received: a delay of half a day.
    expect(estimate.add(offsetOf(30_000, 30_045, 30_045 + 75_222_990, 30_010))).toBe(false)
    expect(estimate.add(offsetOf(30_000, 30_045, Number.NaN, 30_010))).toBe(false)
    // A possible delay, an impossible clock.
    expect(beat(31_000, 37_611_495)).toBe(false)
    expect([estimate.offsetAt(31_000), estimate.uncertaintyAt(31_000)]).toEqual([
      expect.closeTo(40, 0),
      expect.closeTo(5, 0),
    ])
    expect(beat(32_000, 40)).toBe(true)
    expect(estimate.offsetAt(32_000)).toBeCloseTo(40, 0)
  })

  it('follows a clock that was stepped, once it is told twice; a damaged first reading too', () => {
    const estimate = new ClockEstimate()
    const beat = (t: number, offset: number) => estimate.add(offsetOf(t, t + 5 + offset, t + 5.2 + offset, t + 10.2))
    beat(0, -9e9)
    for (let t = 1000; t < 30_000; t += 1000) beat(t, 0)
    expect(Math.abs(estimate.offsetAt(30_000))).toBeLessThan(1)
    beat(30_000, 3_600_000)
    expect(Math.abs(estimate.offsetAt(30_000))).toBeLessThan(1)
    beat(31_000, 3_600_000)
    expect(estimate.offsetAt(31_000)).toBeCloseTo(3_600_000, 0)
    expect(estimate.uncertaintyAt(31_000)).toBeLessThan(6)
  })

  it('is known to a few ms after 20 s of silence, on one host, whatever the first second of beats was like', () => {
    for (let seed = 1; seed <= 50; seed++) {
      const random = seededRandom(seed)
      const estimate = new ClockEstimate()
      const beat = (t: number) => {
        // Now and then the loop is held up on one side only.
        const [out, back] = [0.1 + (random() < 0.2 ? random() * 30 : 0), 0.1 + (random() < 0.2 ? random() * 30 : 0)]
        estimate.add(offsetOf(t, t + out, t + out, t + out + back))
      }
      for (let t = 0; t < 800; t += 100) beat(t)
      for (let t = 1000; t < 40_000; t += 1000) beat(t)
      expect(estimate.uncertaintyAt(60_000)).toBeLessThan(25)
      expect(Math.abs(estimate.offsetAt(60_000))).toBeLessThan(estimate.uncertaintyAt(60_000) + 1e-9)
    }
  })

  it('knows nothing before the first sample', () => {
    expect(new ClockEstimate().uncertaintyAt(0)).toBe(Number.POSITIVE_INFINITY)
  })
})
