/**
 * Fisher's exact test of a table of two by two: how likely a table at least as uneven is when rows do not matter. R. A.
 * Fisher, Statistical Methods for Research Workers (1934), §21.02; two-sided as the sum of all tables that are no
 * likelier than the one seen (Freeman and Halton 1951).
 */

/** Tables whose likelihood differs by rounding only are equally likely. */
const ROUNDING = 1e-7

/** @param table counts of the first row and of the second: `[[a, b], [c, d]]` @returns p, 0 to 1 */
export function fisherExact([[a, b], [c, d]]: readonly [readonly [number, number], readonly [number, number]]): number {
  const [first, second, left] = [a + b, c + d, a + c]
  const log = logFactorials(first + second)
  const fixed = log[first]! + log[second]! + log[left]! + log[first + second - left]! - log[first + second]!
  /** Logarithm of the likelihood of the table with x in its first place. */
  const likelihood = (x: number) =>
    fixed - log[x]! - log[first - x]! - log[left - x]! - log[second - left + x]!
  const seen = likelihood(a)
  let p = 0
  for (let x = Math.max(0, left - second); x <= Math.min(first, left); x++) {
    const here = likelihood(x)
    if (here <= seen + ROUNDING) p += Math.exp(here)
  }
  return Math.min(1, p)
}

/** Logarithms of 0! to n!. */
function logFactorials(n: number): Float64Array {
  const log = new Float64Array(n + 1)
  for (let i = 2; i <= n; i++) log[i] = log[i - 1]! + Math.log(i)
  return log
}

/**
 * Which of several questions are answered beyond chance when all are asked at once: S. Holm, A simple sequentially
 * rejective multiple test procedure (1979).
 *
 * @param ps of each question; undefined: it is not asked @param level that all answers together are held to
 */
export function holm(ps: readonly (number | undefined)[], level: number): boolean[] {
  const asked = ps.flatMap((p, i) => (p === undefined ? [] : [{ p, i }])).sort((a, b) => a.p - b.p)
  const held = ps.map(() => false)
  for (const [rank, { p, i }] of asked.entries()) {
    if (p > level / (asked.length - rank)) break
    held[i] = true
  }
  return held
}
