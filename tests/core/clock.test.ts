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
      if (t > 10_000) expect(Math.abs(estimate.offsetAt(t) - (offset + drift * t))).toBeLessThanOrEqual(estimate.uncertaintyAt(t))
    }
    expect(Math.abs(estimate.drift() - drift)).toBeLessThan(20e-6)
  })

  it('knows nothing before the first sample', () => {
    expect(new ClockEstimate().uncertaintyAt(0)).toBe(Number.POSITIVE_INFINITY)
  })
})
