/** The text of a file that was uploaded: its beginning, and all of it as it streams, in whatever encoding it is. */
import { closeSync, openSync, readSync } from 'node:fs'
import { Transform } from 'node:stream'
import iconv from 'iconv-lite'
import { asError } from '../../core/values/thrown'

/** The file cannot be read as it is. */
export class FileError extends Error {
  override name = 'FileError'
  constructor(
    message: string,
    readonly remedy: string,
  ) {
    super(message)
  }
}

const SAMPLE_BYTES = 64 * 1024

/** The beginning of a file, as far as it takes to recognise it. */
export function firstBytes(path: string): Buffer {
  const handle = openSync(path, 'r')
  try {
    const bytes = Buffer.alloc(SAMPLE_BYTES)
    return bytes.subarray(0, readSync(handle, bytes, 0, SAMPLE_BYTES, 0))
  }
  finally {
    closeSync(handle)
  }
}

/** What makes text of a file’s bytes. @throws FileError when the encoding is none */
export function decoderOf(encoding: string): NodeJS.ReadWriteStream {
  if (!iconv.encodingExists(encoding))
    throw new FileError(
      `“${encoding}” is no encoding.`,
      'Choose utf-8, utf-16le, windows-1252 or another of the Encoding Standard.',
    )
  return /^utf-?8$/i.test(encoding) ? strictUtf8() : iconv.decodeStream(encoding)
}

/** Whole lines of a piece before the first that is not UTF-8. */
function linesBeforeFault(piece: Buffer): number {
  const alone = new TextDecoder('utf-8', { fatal: true })
  let lines = 0
  // A letter cut by the piece's beginning is the piece before's.
  let from = 0
  while (from < 3 && (piece[from]! & 0xc0) === 0x80) from++
  for (let end = piece.indexOf(10, from); end >= 0; end = piece.indexOf(10, from)) {
    try {
      alone.decode(piece.subarray(from, end))
    }
    catch {
      break
    }
    from = end + 1
    lines++
  }
  return lines
}

/** UTF-8, and nothing else: the first bytes of a file may be, and a name further down not. */
function strictUtf8(): Transform {
  const decoder = new TextDecoder('utf-8', { fatal: true })
  let line = 1
  const decode = (chunk: Buffer | undefined): string => {
    try {
      return chunk ? decoder.decode(chunk, { stream: true }) : decoder.decode()
    }
    catch {
      throw new FileError(
        `The file is not UTF-8 all through: there is a byte that is none in line ${line + (chunk ? linesBeforeFault(chunk) : 0)}.`,
        'Choose the encoding it was saved in, such as windows-1252, or save it as UTF-8.',
      )
    }
  }
  return new Transform({
    readableObjectMode: false,
    decodeStrings: false,
    transform(chunk: Buffer, _, done) {
      try {
        const text = decode(chunk)
        for (let at = chunk.indexOf(10); at >= 0; at = chunk.indexOf(10, at + 1)) line++
        done(null, text)
      }
      catch (error) {
        done(asError(error))
      }
    },
    flush(done) {
      try {
        done(null, decode(undefined))
      }
      catch (error) {
        done(asError(error))
      }
    },
  })
}
