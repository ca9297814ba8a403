/**
 * What must be there, for a reason that the compiler cannot see.
 * @param why the reason: what it is, and why it is there
 * @throws Error where the reason turns out to be wrong
 */
export function present<T>(value: T | undefined | null, why: string): T {
  if (value === undefined || value === null) throw new Error(`This should be there: ${why}.`)
  return value
}
