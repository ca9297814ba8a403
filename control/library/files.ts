/** Contents by their SHA-256, in a folder of their own; never by the names they came with. */
import { createHash, randomBytes } from 'node:crypto'
import {
  closeSync,
  createWriteStream,
  existsSync,
  mkdirSync,
  openSync,
  readSync,
  renameSync,
  rmSync,
  statSync,
} from 'node:fs'
import { join } from 'node:path'
import { pipeline } from 'node:stream/promises'
import { Transform, type Readable } from 'node:stream'
import { ControlError } from '../errors'
import type { LibraryStore, StoredFile } from '../store/library'
import { asError } from '../../core/values/thrown'

const GB = 1024 ** 3
/** Largest upload, bytes; and largest of a whole run's archive: hours of hundreds of generators. */
const MOST_UPLOAD_BYTES = 0.5 * GB
const MOST_ARCHIVE_BYTES = 64 * GB

/** @returns the largest that a file of this name may be, bytes */
export function mostBytesOf(name: string): number {
  return /\.(tgz|tar\.gz)$/i.test(name) ? MOST_ARCHIVE_BYTES : MOST_UPLOAD_BYTES
}

const tooLarge = (most: number) =>
  new ControlError('too-large', 413, `The file is larger than ${most / 1024 / 1024} MB.`, 'Cut it down, or split it.')

export class FileRoom {
  constructor(
    private readonly folder: string,
    private readonly library: LibraryStore,
    private readonly now: () => number,
    /** @throws ControlError when the disk has no room for more */
    private readonly hold: () => void = () => undefined,
  ) {
    mkdirSync(folder, { recursive: true })
  }

  /** Path of a content. Ids are 64 hexadecimal digits, so no id can climb out. */
  path(id: string): string {
    if (!/^[0-9a-f]{64}$/.test(id)) throw new ControlError('file', 404, 'There is no such file.', 'Upload it again.')
    return join(this.folder, id)
  }

  /** Where a worker may leave something before it is {@link adopt adopted}. */
  scratch(): string {
    return join(this.folder, `coming-${randomBytes(8).toString('hex')}`)
  }

  has(id: string): boolean {
    return this.library.file(id) !== undefined && existsSync(this.path(id))
  }

  /** Takes an upload. @throws ControlError when it is too large, or there is no room for it */
  async take(stream: Readable, name: string): Promise<StoredFile> {
    const scratch = this.scratch()
    const hash = createHash('sha256')
    const most = mostBytesOf(name)
    let bytes = 0
    const counted = new Transform({
      transform: (chunk: Buffer, _, done) => {
        bytes += chunk.length
        hash.update(chunk)
        try {
          this.hold()
          if (bytes > most) throw tooLarge(most)
          done(null, chunk)
        }
        catch (error) {
          done(asError(error))
        }
      },
    })
    try {
      await pipeline(stream, counted, createWriteStream(scratch))
    }
    catch (error) {
      rmSync(scratch, { force: true })
      throw error
    }
    if (bytes === 0) {
      rmSync(scratch, { force: true })
      throw new ControlError('empty', 400, 'The file is empty.', 'Choose another.')
    }
    return this.adopt(scratch, hash.digest('hex'), name, bytes)
  }

  /** Makes a scratch file one of the room's. */
  adopt(scratch: string, id: string, name: string, bytes = statSync(scratch).size): StoredFile {
    renameSync(scratch, this.path(id))
    const file = { id, name: name.slice(0, 200), bytes, addedAt: this.now() }
    this.library.saveFile(file)
    return file
  }

  read(id: string, from: number, to: number): Buffer {
    const handle = openSync(this.path(id), 'r')
    try {
      const bytes = Buffer.alloc(Math.max(0, to - from))
      return bytes.subarray(0, readSync(handle, bytes, 0, bytes.length, from))
    }
    finally {
      closeSync(handle)
    }
  }
}
