/**
 * JSON that this store itself has written. It is not held against a schema again: what came from outside was, before
 * it was kept, nobody else writes here, and forms of earlier releases are upgraded where they are read.
 */
export function fromStore<T>(json: string): T {
  // As said above.
  return JSON.parse(json) as T
}
