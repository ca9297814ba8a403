/**
 * A copy of everything an installation keeps, in one file: a gzipped tar (POSIX.1-2017, pax) of its databases, each as
 * one moment left it, and its files, with a list of their sums. Secrets in it stay sealed; the key they are sealed with
 * is not in it.
 */
import { createHash } from 'node:crypto'
import {
  chmodSync,
  copyFileSync,
  createReadStream,
  existsSync,
  linkSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statfsSync,
  statSync,
  writeFileSync,
} from 'node:fs'
import { hostname } from 'node:os'
import { dirname, join, resolve } from 'node:path'
import { pipeline } from 'node:stream/promises'
import Database from 'better-sqlite3'
import { create } from 'tar'

export const MANIFEST = 'vornak-backup.json'
export const BACKUP_FORMAT = 'vornak-backup/1'
/** What may stand in one. */
export const BACKED_UP = /^(vornak\.db|runs\/run-\d+(?:-target)?\.db|files\/[0-9a-f]{64})$/

export interface Manifest {
  format: typeof BACKUP_FORMAT
  /** ms since 1970. */
  madeAt: number
  installation: string
  /** Where it was: what goes on from here must not go on there. */
  host: string
  folder: string
  files: { path: string, bytes: number, sha256: string }[]
}

/** It could not be made; nothing was changed. */
class CannotBackUp extends Error {
  override name = 'CannotBackUp'
}

/**
 * While its server runs, too. @param file must not be there yet @returns what is in it
 * @throws CannotBackUp
 */
export async function backUp(dataFolder: string, file: string, now: number): Promise<Manifest> {
  const folder = resolve(dataFolder)
  if (!existsSync(join(folder, 'vornak.db')))
    throw new CannotBackUp(`${folder} holds no data of Vornak: say with VORNAK_DATA where it is.`)
  if (existsSync(file)) throw new CannotBackUp(`${file} is there already: choose another name, or take it away.`)
  const making = `${file}.making`
  rmSync(making, { recursive: true, force: true })
  try {
    mkdirSync(making, { recursive: true, mode: 0o700 })
    refuseWithoutRoom(folder, making)
    // The main database first: what a run adds meanwhile is found again by its own file. What is still being uploaded
    // has another name.
    const paths = ['vornak.db', ...listed(folder, 'runs', /^run-\d+(?:-target)?\.db$/), ...listed(folder, 'files', /^[0-9a-f]{64}$/)]
    for (const path of paths) takeCopy(join(folder, path), join(making, path))
    const there = paths.filter(path => existsSync(join(making, path)))
    const files = []
    for (const path of there)
      files.push({ path, bytes: statSync(join(making, path)).size, sha256: await sumOf(join(making, path)) })
    const installation = factIn(join(making, 'vornak.db'), 'installation')
    const manifest: Manifest = { format: BACKUP_FORMAT, madeAt: now, installation, host: hostname(), folder, files }
    writeFileSync(join(making, MANIFEST), JSON.stringify(manifest, null, 2))
    const part = join(making, 'whole.tar.gz')
    await create({ gzip: true, portable: true, file: part, cwd: making }, [MANIFEST, ...there])
    chmodSync(part, 0o600)
    renameSync(part, file)
    return manifest
  }
  finally {
    rmSync(making, { recursive: true, force: true })
  }
}

function listed(folder: string, below: string, name: RegExp): string[] {
  if (!existsSync(join(folder, below))) return []
  return readdirSync(join(folder, below)).filter(n => name.test(n)).sort().map(n => `${below}/${n}`)
}

/** Databases as one moment left them, though they are written to; a file that is kept never changes. */
function takeCopy(from: string, to: string): void {
  mkdirSync(dirname(to), { recursive: true })
  if (from.endsWith('.db')) {
    // A run that was removed a moment ago is not there.
    if (!existsSync(from)) return
    const database = new Database(from, { readonly: true })
    try {
      database.prepare('VACUUM INTO ?').run(to)
    }
    finally {
      database.close()
    }
    return
  }
  try {
    linkSync(from, to)
  }
  catch {
    // Another disk.
    copyFileSync(from, to)
  }
}

/** Twice what is copied: the copies, and the archive of them. @throws CannotBackUp */
function refuseWithoutRoom(folder: string, making: string): void {
  const sizeBelow = (path: string): number =>
    readdirSync(path, { withFileTypes: true }).reduce(
      (sum, e) => sum + (e.isDirectory() ? sizeBelow(join(path, e.name)) : statSync(join(path, e.name)).size),
      0,
    )
  const { bavail, bsize } = statfsSync(making)
  const [wanted, free] = [2 * sizeBelow(folder), bavail * bsize]
  if (free < wanted)
    throw new CannotBackUp(`It wants ${mb(wanted)} MB for a while, and ${mb(free)} MB are free beside ${making}.`)
}

const mb = (bytes: number): number => Math.ceil(bytes / 1024 / 1024)

export async function sumOf(file: string): Promise<string> {
  const hash = createHash('sha256')
  await pipeline(createReadStream(file), hash)
  return hash.digest('hex')
}

function factIn(database: string, name: string): string {
  const store = new Database(database, { readonly: true })
  try {
    return store.prepare<[string], { value: string }>('SELECT value FROM facts WHERE name = ?').get(name)?.value ?? ''
  }
  finally {
    store.close()
  }
}

/** @throws Error when it is none */
export const readManifest = (file: string): Manifest => JSON.parse(readFileSync(file, 'utf8')) as Manifest
