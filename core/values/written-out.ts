/**
 * Records that the code writes out, or fills from a list it writes out: their keys are those of their type and no
 * others. (`Object.keys` cannot know that, for a record from elsewhere may hold more.)
 */

/** Its keys, in the order they are written. */
export const keysIn = <K extends string>(record: Readonly<Partial<Record<K, unknown>>>): K[] =>
  Object.keys(record) as K[]

/** Its keys and values, in the order they are written. */
export const entriesIn = <K extends string, V>(record: Readonly<Partial<Record<K, V>>>): [K, V][] =>
  Object.entries(record) as [K, V][]

/** One value for each of some keys. */
export const keyed = <K extends string, V>(keys: readonly K[], valueOf: (key: K, at: number) => V): Record<K, V> =>
  Object.fromEntries(keys.map((key, at) => [key, valueOf(key, at)])) as Record<K, V>
