/** A row of values as the line of a small drawing. */

/**
 * @param values null: there was none, and the line is interrupted @param x of a value's number @param y of a value
 * @returns data of an SVG path (SVG 1.1, 8.3)
 */
export function stripPath(
  values: readonly (number | null)[],
  x: (at: number) => number,
  y: (value: number) => number,
): string {
  let path = ''
  let isDown = false
  values.forEach((value, at) => {
    if (value !== null) path += `${isDown ? 'L' : 'M'}${x(at).toFixed(1)} ${y(value).toFixed(1)}`
    isDown = value !== null
  })
  return path
}
