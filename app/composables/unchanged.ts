/**
 * What was asked for again, with all parts that are as they were being the same objects as before: what depends on
 * them is not worked out again, nor drawn. The order of names counts: that of a mix is the order it is dealt in.
 *
 * @param before data as JSON has it
 * @param after data as JSON has it; not changed. @returns what equals it
 */
export function keepingUnchanged<T>(before: unknown, after: T): T {
  if (before === after || typeof before !== 'object' || typeof after !== 'object' || !before || !after) return after
  if (Array.isArray(before) !== Array.isArray(after)) return after
  // An array is asked by its indices as an object is by its names.
  const [was, is] = [before as Record<string, unknown>, after as Record<string, unknown>]
  const keys = Object.keys(is)
  const kept = keys.map(key => keepingUnchanged(was[key], is[key]))
  const names = Object.keys(was)
  const isSame = keys.length === names.length && keys.every((key, i) => key === names[i] && kept[i] === was[key])
  // All of it is the same: so is its type.
  if (isSame) return before as T
  // Each part is what came, or equal to it.
  return (Array.isArray(is) ? kept : Object.fromEntries(keys.map((key, i) => [key, kept[i]]))) as T
}
