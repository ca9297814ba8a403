/** Student's t distribution: its distribution function and quantiles (Student 1908; Abramowitz and Stegun §26.7). */

/** Lanczos' approximation of ln Γ(x), x > 0, to 15 digits (Lanczos 1964, g = 7, nine terms). */
function lnGamma(x: number): number {
  const terms = [
    0.999_999_999_999_809_93,
    676.520_368_121_885_1,
    -1259.139_216_722_402_8,
    771.323_428_777_653_13,
    -176.615_029_162_140_59,
    12.507_343_278_686_905,
    -0.138_571_095_265_720_12,
    9.984_369_578_019_571_6e-6,
    1.505_632_735_149_311_6e-7,
  ]
  const t = x + 6.5
  const sum = terms.reduce((s, c, i) => (i === 0 ? c : s + c / (x - 1 + i)), 0)
  return 0.5 * Math.log(2 * Math.PI) + (x - 0.5) * Math.log(t) - t + Math.log(sum)
}

/** The regularised incomplete beta function by its continued fraction (Abramowitz and Stegun 26.5.8; Lentz 1976). */
function incompleteBeta(x: number, a: number, b: number): number {
  if (x <= 0) return 0
  if (x >= 1) return 1
  // The fraction converges quickly on this side.
  if (x > (a + 1) / (a + b + 2)) return 1 - incompleteBeta(1 - x, b, a)
  const tiny = 1e-300
  let c = 1
  let d = 1 - ((a + b) * x) / (a + 1)
  d = 1 / (Math.abs(d) < tiny ? tiny : d)
  let fraction = d
  for (let m = 1; m < 500; m++) {
    for (const factor of [
      (m * (b - m) * x) / ((a + 2 * m - 1) * (a + 2 * m)),
      (-(a + m) * (a + b + m) * x) / ((a + 2 * m) * (a + 2 * m + 1)),
    ]) {
      d = 1 + factor * d
      c = 1 + factor / c
      d = 1 / (Math.abs(d) < tiny ? tiny : d)
      c = Math.abs(c) < tiny ? tiny : c
      fraction *= d * c
    }
    if (Math.abs(d * c - 1) < 1e-15) break
  }
  const front = Math.exp(
    lnGamma(a + b) - lnGamma(a) - lnGamma(b) + a * Math.log(x) + b * Math.log(1 - x),
  )
  return (front * fraction) / a
}

/** The share of Student's t with `freedom` degrees of freedom that lies at or below `t`. */
export function studentShare(t: number, freedom: number): number {
  const beyond = incompleteBeta(freedom / (freedom + t * t), freedom / 2, 0.5) / 2
  return t > 0 ? 1 - beyond : beyond
}

/**
 * The value at or below which the share `p` of Student's t lies.
 *
 * @param p above 0, below 1 @param freedom degrees of freedom, above 0
 */
export function studentQuantile(p: number, freedom: number): number {
  if (p < 0.5) return -studentQuantile(1 - p, freedom)
  let high = 1
  while (studentShare(high, freedom) < p && high < 1e12) high *= 2
  let low = 0
  while (high - low > 1e-12 * Math.max(1, high)) {
    const middle = (low + high) / 2
    if (studentShare(middle, freedom) < p) low = middle
    else high = middle
  }
  return (low + high) / 2
}

/** Mean of values and the standard deviation of what they are a sample of. @param values two at least */
export function meanAndDeviation(values: readonly number[]): { mean: number, deviation: number } {
  const n = values.length
  const mean = values.reduce((a, b) => a + b, 0) / n
  return { mean, deviation: Math.sqrt(values.reduce((sum, v) => sum + (v - mean) ** 2, 0) / (n - 1)) }
}

/** Between which bounds the mean of equally good values lies; undefined: there are not two of them. */
export function meanInterval(
  values: readonly number[],
  confidence = 0.95,
): { mean: number, halfWidth: number } | undefined {
  const n = values.length
  if (n < 2) return undefined
  const { mean, deviation } = meanAndDeviation(values)
  return { mean, halfWidth: studentQuantile((1 + confidence) / 2, n - 1) * (deviation / Math.sqrt(n)) }
}
