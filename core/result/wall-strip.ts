/** A row of values as the path of a line, in a box of 100 × 100 whose ground is 0. */

/**
 * @param values one a step; null: there was none, and the line is interrupted
 * @param steps into how many the width is divided @param top what stands at the upper edge
 * @returns data of an SVG path (SVG 1.1, 8.3)
 */
export function stripPath(values: readonly (number | null)[], steps: number, top: number): string {
  let isDown = false
  return values
    .map((value, i) => {
      if (value === null) {
        isDown = false
        return ''
      }
      const at = `${((100 * (i + 0.5)) / Math.max(1, steps)).toFixed(2)} ${(100 - (100 * value) / top).toFixed(2)}`
      const step = isDown ? `L${at}` : `M${at}`
      isDown = true
      return step
    })
    .join('')
}
