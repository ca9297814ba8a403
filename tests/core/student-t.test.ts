/**
 * Student's t against published tables: NIST/SEMATECH e-Handbook of Statistical Methods, §1.3.6.7.2, critical values;
 * and closed forms for one and two degrees of freedom.
 */
import { meanInterval, studentQuantile, studentShare } from '../../core/values/student-t'

it.each([
  [0.9, 1, 3.078],
  [0.95, 1, 6.314],
  [0.975, 1, 12.706],
  [0.995, 1, 63.657],
  [0.975, 2, 4.303],
  [0.975, 5, 2.571],
  [0.99, 7, 2.998],
  [0.975, 10, 2.228],
  [0.95, 20, 1.725],
  [0.975, 30, 2.042],
  [0.975, 60, 2.0],
  [0.975, 100, 1.984],
])('%d of it with %d degrees of freedom lies up to %d', (p, freedom, value) => {
  expect(studentQuantile(p, freedom)).toBeCloseTo(value, 3)
  expect(studentQuantile(1 - p, freedom)).toBeCloseTo(-value, 3)
})

it('is Cauchy’s distribution with one degree of freedom, and has a closed form with two', () => {
  for (const t of [-40, -3, -0.2, 0, 0.7, 2, 25]) {
    expect(studentShare(t, 1)).toBeCloseTo(0.5 + Math.atan(t) / Math.PI, 12)
    expect(studentShare(t, 2)).toBeCloseTo(0.5 + t / (2 * Math.sqrt(2 + t * t)), 12)
  }
})

it('a mean has its interval, reckoned by hand', () => {
  // 2, 4, 4, 4, 5, 5, 7, 9: mean 5, sample variance 32/7, t(0.975, 7) = 2.3646.
  const { mean, halfWidth } = meanInterval([2, 4, 4, 4, 5, 5, 7, 9])!
  expect(mean).toBe(5)
  expect(halfWidth).toBeCloseTo(2.3646 * Math.sqrt(32 / 7 / 8), 3)
  expect(meanInterval([3])).toBeUndefined()
})
