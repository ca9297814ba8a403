/** What was thrown, which may be anything: most of it comes from packages and from Node. */

/** Its own words, or what it is written as. */
export function messageOf(thrown: unknown): string {
  // Whatever it is, properties can be read of it.
  const { message } = (thrown ?? {}) as { message?: unknown }
  return typeof message === 'string' ? message : String(thrown)
}

/** The code by which packages and Node tell failures apart, such as `ENOENT`. */
export function codeOf(thrown: unknown): string | undefined {
  // As above.
  const { code } = (thrown ?? {}) as { code?: unknown }
  return typeof code === 'string' ? code : undefined
}

/** For code that wants an error and nothing else. */
export function asError(thrown: unknown): Error {
  // As above.
  const { message } = (thrown ?? {}) as { message?: unknown }
  // Whatever has a message serves as one: errors of another realm are no instances of ours.
  return typeof message === 'string' ? (thrown as Error) : new Error(messageOf(thrown))
}
