/** A capture as a file: HAR as text, or a zip of it with the bodies that lie beside it. */
import { unzipSync } from 'fflate'
import { HarError, readHar, type RecordedVisit } from './har'
import { messageOf } from '../values/thrown'

/** Most that a zip may hold when it is unpacked, bytes, and most files. */
const MOST_UNPACKED_BYTES = 512 * 1024 * 1024
const MOST_FILES = 20_000

/** @throws HarError in words that say what to do */
export function readHarFile(bytes: Uint8Array): RecordedVisit {
  const isZip = bytes[0] === 0x50 && bytes[1] === 0x4b && bytes[2] === 3 && bytes[3] === 4
  return isZip ? readZip(bytes) : readHar(new TextDecoder().decode(bytes))
}

function readZip(bytes: Uint8Array): RecordedVisit {
  let size = 0
  let count = 0
  let files: Record<string, Uint8Array>
  try {
    files = unzipSync(bytes, {
      filter: ({ originalSize }) => {
        size += originalSize
        if (++count > MOST_FILES || size > MOST_UNPACKED_BYTES)
          throw new HarError(
            `The archive holds more than ${count > MOST_FILES ? `${MOST_FILES} files` : `${MOST_UNPACKED_BYTES / 1024 / 1024} MB`}.`,
            'Capture less at once.',
          )
        return true
      },
    })
  }
  catch (error) {
    if (error instanceof HarError) throw error
    throw new HarError(
      `The archive cannot be opened: ${messageOf(error)}.`,
      'Pack the capture and its files into a zip again.',
    )
  }
  const byName = new Map(Object.entries(files))
  const captures = [...byName.keys()].filter(name => /\.har$/i.test(name) && !name.startsWith('__MACOSX'))
  const [capture] = captures
  const content = capture === undefined ? undefined : byName.get(capture)
  if (captures.length !== 1 || capture === undefined || content === undefined)
    throw new HarError(
      captures.length === 0
        ? 'The archive holds no capture: no file in it ends in .har.'
        : `The archive holds ${captures.length} captures.`,
      'Pack one capture with the files beside it.',
    )
  const folder = capture.slice(0, capture.lastIndexOf('/') + 1)
  return readHar(
    new TextDecoder().decode(content),
    name => byName.get(folder + name) ?? byName.get(name),
  )
}
