/**
 * The conversation over a plain stream of bytes, where there is no socket of messages: the standard input and output of
 * a program started over SSH. After a mark that tells the stream from whatever the host wrote before it, each message
 * is a length (4 bytes, big endian, of what follows), a kind (1 byte: 0 text, 1 binary) and its content.
 * docs/protocol.md has a worked example.
 */
import { MAX_MESSAGE_BYTES } from './version'

/** What the far end sends first. Greetings and rubbish of a host come before it and are passed over. */
export const STREAM_MARK = Buffer.from('\0vornak-link\n')
/** More than this before the mark is not a greeting, bytes. */
const MOST_BEFORE_MARK = 64 * 1024

const TEXT = 0
const BINARY = 1

export function framed(message: string | Uint8Array): Buffer {
  const content = typeof message === 'string' ? Buffer.from(message) : message
  const head = Buffer.alloc(5)
  head.writeUInt32BE(content.length + 1, 0)
  head[4] = typeof message === 'string' ? TEXT : BINARY
  return Buffer.concat([head, content])
}

/** The stream is not as agreed. */
export class StreamError extends Error {
  override name = 'StreamError'
}

/** Takes a stream apart again, however it was cut on its way. */
export class StreamReader {
  private rest: Buffer = Buffer.alloc(0)

  /** @param awaitsMark false on the side that sends the mark */
  constructor(
    private readonly onMessage: (message: string | Uint8Array) => void,
    private awaitsMark = true,
  ) {}

  /** @throws StreamError */
  take(chunk: Buffer): void {
    this.rest = this.rest.length === 0 ? chunk : Buffer.concat([this.rest, chunk])
    if (this.awaitsMark) {
      const at = this.rest.indexOf(STREAM_MARK)
      if (at < 0) {
        if (this.rest.length > MOST_BEFORE_MARK)
          throw new StreamError(
            `The host wrote more than ${MOST_BEFORE_MARK / 1024} kB before the generator could speak: silence what its shell prints at the start.`,
          )
        return
      }
      this.awaitsMark = false
      this.rest = this.rest.subarray(at + STREAM_MARK.length)
    }
    while (this.rest.length >= 5) {
      const length = this.rest.readUInt32BE(0)
      if (length < 1 || length > MAX_MESSAGE_BYTES + 1)
        throw new StreamError(`A message of ${length} bytes is not as agreed.`)
      if (this.rest.length < 4 + length) return
      const content = this.rest.subarray(5, 4 + length)
      const kind = this.rest[4]
      this.rest = this.rest.subarray(4 + length)
      this.onMessage(kind === TEXT ? content.toString('utf8') : new Uint8Array(content))
    }
  }
}
