/** Unpacks a command journey's kit: a tar archive, plain or gzipped. Nothing in it may climb out of its folder. */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { isAbsolute, join, normalize } from 'node:path'
import { extract, list } from 'tar'
import { messageOf } from '../../core/values/thrown'

const MOST_ENTRIES = 20_000
const MOST_BYTES = 1024 * 1024 * 1024

/** The archive cannot be used, and why. */
export class KitError extends Error {
  override name = 'KitError'
}

/** @returns folder of the unpacked kit @throws KitError */
export async function unpackKit(archive: Uint8Array): Promise<string> {
  const folder = mkdtempSync(join(tmpdir(), 'vornak-kit-'))
  const file = join(folder, '.kit.tar')
  writeFileSync(file, archive)
  try {
    let entries = 0
    let bytes = 0
    let fault: string | undefined
    await list({
      file,
      strict: true,
      onReadEntry(entry) {
        entries++
        bytes += entry.size
        if (climbs(entry.path)) fault ??= `“${entry.path}” climbs out of the kit`
        else if (
          entry.type !== 'File' &&
          entry.type !== 'Directory' &&
          entry.type !== 'OldFile' &&
          entry.type !== 'ContiguousFile'
        )
          fault ??= `“${entry.path}” is a ${entry.type}: only files and folders are taken`
        if (entries > MOST_ENTRIES) fault ??= `it has more than ${MOST_ENTRIES} entries`
        if (bytes > MOST_BYTES) fault ??= 'it unpacks to more than 1 GB'
      },
    })
    if (fault === undefined && entries === 0) fault = 'it is empty'
    if (fault !== undefined)
      throw new KitError(`The kit is not taken: ${fault}. Pack it anew, with paths below its own folder.`)
    await extract({ file, cwd: folder, strict: true, preserveOwner: false })
    rmSync(file)
    return folder
  }
  catch (error) {
    rmSync(folder, { recursive: true, force: true })
    if (error instanceof KitError) throw error
    throw new KitError(`The kit is no tar archive that can be read: ${messageOf(error)}.`)
  }
}

/** Whether a path of an archive, or of a file to bring back, leaves its folder. */
export function climbs(path: string): boolean {
  const clean = normalize(path.replaceAll('\\', '/'))
  return isAbsolute(clean) || clean === '..' || clean.startsWith('../') || /^[A-Za-z]:/.test(clean)
}
