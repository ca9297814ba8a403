/**
 * The bucket layout of the published High Dynamic Range histogram, for the one configuration Vornak uses:
 * values in µs from 1 µs to 1 h, 3 significant decimal digits (2,048 sub-buckets, error at most 0.1 %).
 *
 * A value's *index* counts its bucket from 0. The first 2,048 indices are exact microseconds; from there every 1,024
 * indices double the width of a bucket.
 */

/** Largest value the layout holds, in µs (1 h). Longer durations are clamped to it. */
export const HIGHEST_TRACKABLE_US = 3_600_000_000
/** Significant decimal digits kept. */
export const SIGNIFICANT_DIGITS = 3
/** Buckets per power of two: the smallest power of two that is at least 2 · 10³. */
const SUB_BUCKETS = 2048
/** Half of {@link SUB_BUCKETS}: the number of buckets each further doubling adds. */
export const SUB_BUCKET_HALF = 1024
/** Doublings needed to reach {@link HIGHEST_TRACKABLE_US}. */
export const DOUBLINGS = 22
/** Number of indices: (22 + 1) · 1,024. */
export const INDEX_COUNT = (DOUBLINGS + 1) * SUB_BUCKET_HALF

/**
 * Index of the bucket that holds a value.
 *
 * @param valueUs duration in µs; fractions are cut, negative values count as 0, values over 1 h as 1 h
 */
export function indexOfValue(valueUs: number): number {
  let v = valueUs >= HIGHEST_TRACKABLE_US ? HIGHEST_TRACKABLE_US : valueUs | 0
  if (valueUs < HIGHEST_TRACKABLE_US && valueUs > 2_147_483_647) v = Math.floor(valueUs)
  if (v < SUB_BUCKETS) return v > 0 ? v : 0
  // 3.6e9 fits in 32 unsigned bits, so the leading zeros of v >>> 0 give the power of two.
  const shift = 21 - Math.clz32(v >>> 0)
  return shift * SUB_BUCKET_HALF + ((v >>> 0) >>> shift)
}

/** Smallest value, in µs, that falls into the bucket of this index. */
export function lowestValueOf(index: number): number {
  if (index < SUB_BUCKETS) return index
  const shift = Math.floor(index / SUB_BUCKET_HALF) - 1
  return (index - shift * SUB_BUCKET_HALF) * 2 ** shift
}

/** Largest whole value, in µs, that falls into the bucket of this index: what a percentile reports. */
export function highestValueOf(index: number): number {
  if (index < SUB_BUCKETS) return index
  const shift = Math.floor(index / SUB_BUCKET_HALF) - 1
  return (index - shift * SUB_BUCKET_HALF + 1) * 2 ** shift - 1
}

/** Of every bucket: a mean asks for thousands. */
const MIDDLES = Float64Array.from({ length: INDEX_COUNT }, (_, index) => {
  const width = index < SUB_BUCKETS ? 1 : 2 ** (Math.floor(index / SUB_BUCKET_HALF) - 1)
  return lowestValueOf(index) + Math.floor(width / 2)
})

/** The middle of the bucket, in µs: what a mean adds up. */
export function middleValueOf(index: number): number {
  return MIDDLES[index]!
}
