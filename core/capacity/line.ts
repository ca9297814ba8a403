/**
 * A weighted straight line through points whose noise is known (least squares; Bevington & Robinson 2003, chapter 6).
 */

export interface StraightLine {
  intercept: number
  slope: number
  /** Variances and covariance of the two. */
  varIntercept: number
  varSlope: number
  covariance: number
  /** Weighted sum of squared distances of the points from it. */
  chiSquare: number
}

/** @param se standard error of each y, above 0 @returns undefined with fewer than two different x */
export function lineThrough(
  x: readonly number[],
  y: readonly number[],
  se: readonly number[],
): StraightLine | undefined {
  let [s, sx, sy, sxx, sxy] = [0, 0, 0, 0, 0]
  x.forEach((xi, i) => {
    const w = 1 / se[i]! ** 2
    s += w
    sx += w * xi
    sy += w * y[i]!
    sxx += w * xi * xi
    sxy += w * xi * y[i]!
  })
  const determinant = s * sxx - sx * sx
  if (!(determinant > 1e-12 * s * sxx)) return undefined
  const slope = (s * sxy - sx * sy) / determinant
  const intercept = (sxx * sy - sx * sxy) / determinant
  const chiSquare = x.reduce((sum, xi, i) => sum + ((y[i]! - intercept - slope * xi) / se[i]!) ** 2, 0)
  return {
    intercept,
    slope,
    varIntercept: sxx / determinant,
    varSlope: s / determinant,
    covariance: -sx / determinant,
    chiSquare,
  }
}

/**
 * Where the line meets a level, with its standard error by the delta method. @returns undefined for a line that does
 * not rise
 */
export function meets(line: StraightLine, level: number): { at: number, se: number } | undefined {
  if (!(line.slope > 0)) return undefined
  const at = (level - line.intercept) / line.slope
  const variance = (line.varIntercept + 2 * at * line.covariance + at * at * line.varSlope) / line.slope ** 2
  return { at, se: Math.sqrt(Math.max(0, variance)) }
}
