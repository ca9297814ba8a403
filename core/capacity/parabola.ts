/**
 * A weighted parabola through points whose noise is known (least squares in powers; Bevington & Robinson 2003, chapter
 * 7).
 */

export interface Parabola {
  /** Weighted sum of squared distances of the points from it. */
  chiSquare: number
  valueAt: (x: number) => number
  /**
   * Where it first rises through a level, with its standard error by the delta method. @returns undefined when it never
   * does
   */
  meets: (level: number) => { at: number, se: number } | undefined
}

/** @param se standard error of each y, above 0 @returns undefined with fewer than three different x */
export function parabolaThrough(
  x: readonly number[],
  y: readonly number[],
  se: readonly number[],
): Parabola | undefined {
  // About the middle and in units of the span, so that the powers stay apart.
  const middle = x.reduce((sum, xi) => sum + xi, 0) / x.length
  const span = Math.max(1e-12, Math.max(...x) - Math.min(...x))
  const u = x.map(xi => (xi - middle) / span)
  const power = (k: number) => u.reduce((sum, ui, i) => sum + ui ** k / se[i]! ** 2, 0)
  const [s0, s1, s2, s3, s4] = [power(0), power(1), power(2), power(3), power(4)]
  const inverse = inverseOf([
    [s0, s1, s2],
    [s1, s2, s3],
    [s2, s3, s4],
  ])
  if (!inverse) return undefined
  const right = [0, 1, 2].map(k => u.reduce((sum, ui, i) => sum + (y[i]! * ui ** k) / se[i]! ** 2, 0))
  const coefficient = (i: number) => inverse[i]!.reduce((sum, v, k) => sum + v * right[k]!, 0)
  const [a, b, c] = [coefficient(0), coefficient(1), coefficient(2)]
  const at = (v: number) => a + b * v + c * v * v
  return {
    chiSquare: u.reduce((sum, ui, i) => sum + ((y[i]! - at(ui)) / se[i]!) ** 2, 0),
    valueAt: xi => at((xi - middle) / span),
    meets(level) {
      const discriminant = b * b - 4 * c * (a - level)
      if (discriminant < 0) return undefined
      // Of two the one where it rises: slope b + 2·c·v = +√discriminant; written so that a straight one divides by no
      // 0.
      const root = Math.sqrt(discriminant)
      if (b + root <= 0 && c <= 0) return undefined
      const v = b + root > 0 ? (2 * (level - a)) / (b + root) : (-b + root) / (2 * c)
      const slope = b + 2 * c * v
      if (!(slope > 0)) return undefined
      const gradient = [1, v, v * v]
      const variance = gradient.reduce(
        (sum, g, i) => sum + gradient.reduce((n, h, k) => n + g * h * inverse[i]![k]!, 0),
        0,
      )
      return { at: middle + v * span, se: (Math.sqrt(Math.max(0, variance)) / slope) * span }
    },
  }
}

/** The other two of 0, 1 and 2. */
const others = (one: number): [number, number] => (one === 0 ? [1, 2] : one === 1 ? [0, 2] : [0, 1])

/** Of a symmetric matrix of three. @returns undefined when it has none */
function inverseOf(m: readonly (readonly number[])[]): number[][] | undefined {
  const cofactor = (i: number, k: number) => {
    const [r1, r2] = others(i)
    const [c1, c2] = others(k)
    return (m[r1]![c1]! * m[r2]![c2]! - m[r1]![c2]! * m[r2]![c1]!) * ((i + k) % 2 ? -1 : 1)
  }
  const determinant = [0, 1, 2].reduce((sum, k) => sum + m[0]![k]! * cofactor(0, k), 0)
  if (!(Math.abs(determinant) > 1e-12 * Math.abs(m[0]![0]! * m[1]![1]! * m[2]![2]!))) return undefined
  return [0, 1, 2].map(i => [0, 1, 2].map(k => cofactor(k, i) / determinant))
}
