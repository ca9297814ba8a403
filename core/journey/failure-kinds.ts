/** Ways an exchange can fail. The order is the wire's: add at the end only. */
export const FAILURE_KINDS = [
  'nameLookup',
  'refused',
  'reset',
  'tls',
  'timeout',
  'status',
  'expectation',
  'notApproved',
  'other',
  'tooLarge',
  'redirects',
  'capture',
  'value',
  'noRow',
  'ownDelay',
] as const

export type FailureKind = (typeof FAILURE_KINDS)[number]

/** The words an operator reads. */
export const FAILURE_WORDS: Record<FailureKind, string> = {
  nameLookup: 'name not found',
  refused: 'connection refused',
  reset: 'connection broken',
  tls: 'TLS failed',
  timeout: 'timed out',
  status: 'wrong status',
  expectation: 'wrong answer',
  notApproved: 'host not approved',
  other: 'other',
  tooLarge: 'answer too large',
  redirects: 'too many redirects',
  capture: 'value not found in the answer',
  value: 'a value was missing',
  noRow: 'no row left in the feed',
  ownDelay: 'answered in time, read too late: the generator stood still',
}

/** Kinds that are the generator's own fault: no failures of the target, and in no share of failures. */
export const OWN_FAULTS: readonly FailureKind[] = ['ownDelay']

/**
 * Whether the target can have seen a request that failed: only then can counts on both sides be held against each
 * other.
 */
export type SentState = 'neverSent' | 'sent' | 'unclear'
