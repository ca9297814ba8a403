/** Fisher's exact test and Holm's procedure, against published examples. */
import { fisherExact, holm } from '../../core/values/fisher'

it.each([
  // R. A. Fisher, The Design of Experiments (1935), chapter 2: the lady tasting tea; 17/70 one-sided, so 34/70.
  ['tea', [[3, 1], [1, 3]], 34 / 70],
  ['tea, all right', [[4, 0], [0, 4]], 2 / 70],
  // Convictions of like-sex twins of criminals, in the documentation of R's fisher.test (from memory).
  ['twins', [[2, 10], [15, 3]], 0.0005367],
] as const)('%s', (_, table, p) => {
  expect(fisherExact(table)).toBeCloseTo(p, 6)
})

/** Binomial coefficients in whole numbers: no rounding anywhere. */
function choose(n: number, k: number): bigint {
  let c = 1n
  for (let i = 1; i <= k; i++) c = (c * BigInt(n - k + i)) / BigInt(i)
  return c
}

it('is what counting every table in whole numbers says', () => {
  for (const [a, b, c, d] of [[0, 12, 7, 3], [5, 5, 5, 5], [1, 299, 40, 260], [30, 2, 0, 9], [0, 0, 4, 2]] as const) {
    const [n, first, left] = [a + b + c + d, a + b, a + c]
    const ways = (x: number) => choose(first, x) * choose(n - first, left - x)
    const tables = Array.from({ length: first + 1 }, (_, x) => x).filter(x => left - x >= 0 && left - x <= n - first)
    const seen = ways(a)
    const uneven = tables.map(ways).filter(w => w <= seen).reduce((sum, w) => sum + w, 0n)
    expect(fisherExact([[a, b], [c, d]])).toBeCloseTo(Number((uneven * 1_000_000_000n) / choose(n, left)) / 1e9, 7)
  }
})

it('of four at 5 % holds the first and the last: the usual worked example of the procedure (common practice, no source)', () => {
  expect(holm([0.01, 0.04, 0.03, 0.005], 0.05)).toEqual([true, false, false, true])
  // What is not asked counts for nothing.
  expect(holm([0.04, undefined], 0.05)).toEqual([true, false])
})
