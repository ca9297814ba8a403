/** What came in from a file or a line, before anything is known of it. */

/** An object as JSON writes it: anything may be under its keys. */
export type Untyped = Record<string, unknown>

export const isObject = (value: unknown): value is Untyped =>
  typeof value === 'object' && value !== null && !Array.isArray(value)

/** The object it is, or one without any keys. */
export const objectOf = (value: unknown): Untyped => (isObject(value) ? value : {})

/** The text it is, or an empty one. */
export const textOf = (value: unknown): string => (typeof value === 'string' ? value : '')

/** The finite number it is, or 0. */
export const numberOf = (value: unknown): number => (typeof value === 'number' && Number.isFinite(value) ? value : 0)

/** What stands under a key of an object, or at an index of a list. */
export function memberOf(value: unknown, key: string): unknown {
  if (typeof value !== 'object' || value === null || !Object.hasOwn(value, key)) return undefined
  // As was asked just now.
  return (value as Untyped)[key]
}
