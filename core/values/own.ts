/**
 * Records with keys from outside: a provider may be called `constructor`, and every object has something under that
 * name.
 */

/** What a record itself holds under a key. */
export function ownOf<T>(record: Readonly<Record<string, T>> | undefined, key: string): T | undefined {
  return record !== undefined && Object.hasOwn(record, key) ? record[key] : undefined
}
