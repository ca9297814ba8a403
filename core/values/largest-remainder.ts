/**
 * Whole numbers that add up to a sum, each within one of its exact value; ties by order. Source: the method of largest
 * remainders (Hamilton), as Balinski & Young 1982, Fair Representation, describe it.
 *
 * @param exact not negative, adding up to `sum` but for rounding
 */
export function largestRemainder(exact: readonly number[], sum: number): number[] {
  const whole = exact.map(Math.floor)
  const left = Math.round(sum - whole.reduce((a, b) => a + b, 0))
  const order = exact.map((e, i) => ({ i, rest: e - Math.floor(e) })).sort((a, b) => b.rest - a.rest || a.i - b.i)
  for (const { i } of order.slice(0, Math.max(0, left))) whole[i]!++
  return whole
}
