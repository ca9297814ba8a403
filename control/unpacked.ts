/** What programs send, as it was before they packed it. */
import { gunzipSync } from 'node:zlib'
import { messageOf } from '../core/values/thrown'

/** Unpacked it is at most this, bytes. */
const MOST_BYTES = 8 * 1024 * 1024

/**
 * @param packed as `content-encoding` says
 * @param problem makes the error that is thrown
 */
export function unpacked(
  bytes: Uint8Array,
  packed: string | undefined,
  problem: (sentence: string, remedy: string) => Error,
): Uint8Array {
  if (packed === undefined || packed === 'identity') return bytes
  if (packed !== 'gzip') throw problem(`It is packed as “${packed.slice(0, 40)}”.`, 'Send it as it is, or by gzip.')
  try {
    return gunzipSync(bytes, { maxOutputLength: MOST_BYTES })
  }
  catch (error) {
    throw problem(`It cannot be unpacked: ${messageOf(error)}.`, `Send at most ${MOST_BYTES / 1024 / 1024} MB at once.`)
  }
}
