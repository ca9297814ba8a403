/** What is sent with a request, within bounds. */
import type { Readable } from 'node:stream'
import { ControlError } from '../control/errors'

/** Largest body read, bytes; main/ turns away what says so beforehand. */
const MOST_BODY_BYTES = 2 * 1024 * 1024

/** Read by hand, not by the server engine, so that the size is bounded also when it is not announced. */
export async function bodyOf(stream: Readable): Promise<Buffer> {
  const chunks: Buffer[] = []
  let size = 0
  // Without an encoding it gives bytes.
  for await (const chunk of stream as AsyncIterable<Buffer>) {
    size += chunk.length
    if (size > MOST_BODY_BYTES)
      throw new ControlError('too-large', 413, 'The request is larger than 2 MB.', 'Send less at once.')
    chunks.push(chunk)
  }
  return Buffer.concat(chunks)
}
