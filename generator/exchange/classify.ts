/** Names what went wrong with an exchange, and whether the target can have seen it. */
import type { FailureKind, SentState } from '../../core/journey/failure-kinds'
import { codeOf } from '../../core/values/thrown'

/** Errors of name resolution, of TLS, and of a connection that ended: codes of Node and undici. */
const LOOKUP = new Set(['ENOTFOUND', 'EAI_AGAIN', 'EAI_FAIL', 'EAI_NODATA', 'EAI_NONAME'])
const RESET = new Set(['ECONNRESET', 'EPIPE', 'ECONNABORTED', 'UND_ERR_SOCKET', 'HPE_INVALID_EOF_STATE'])
const TLS = /^(ERR_TLS|ERR_SSL|CERT_|UNABLE_TO_|DEPTH_ZERO_|SELF_SIGNED_|HOSTNAME_MISMATCH|EPROTO)/

/**
 * @param error what the client threw
 * @param onSocket whether the request had been handed to an open connection
 */
export function classify(error: unknown, onSocket: boolean): { failure: FailureKind, reach: SentState } {
  const code = codeOf(error) ?? ''
  const reach: SentState = onSocket ? 'unclear' : 'neverSent'
  if (code === 'VORNAK_NOT_APPROVED') return { failure: 'notApproved', reach: 'neverSent' }
  if (LOOKUP.has(code)) return { failure: 'nameLookup', reach: 'neverSent' }
  if (code === 'ECONNREFUSED') return { failure: 'refused', reach: 'neverSent' }
  if (TLS.test(code)) return { failure: 'tls', reach: 'neverSent' }
  if (code === 'ETIMEDOUT' || code === 'UND_ERR_CONNECT_TIMEOUT') return { failure: 'timeout', reach }
  if (RESET.has(code)) return { failure: 'reset', reach }
  return { failure: 'other', reach }
}
