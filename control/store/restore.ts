/** Brings a backup back into an empty folder, as the installation it was or as a new one. */
import { randomBytes } from 'node:crypto'
import { existsSync, mkdirSync, readdirSync, renameSync, rmSync, writeFileSync } from 'node:fs'
import { hostname } from 'node:os'
import { join, resolve } from 'node:path'
import { extract } from 'tar'
import { BACKED_UP, BACKUP_FORMAT, MANIFEST, readManifest, sumOf, type Manifest } from './backup'
import { factStore } from './facts'
import { FENCE, holdFolder, type FolderLock } from './folder-lock'
import { leaveWhatIsUnderWay } from './left-behind'
import { openStore, type Store } from './open'
import { messageOf } from '../../core/values/thrown'
import { fromStore } from './from-store'

/**
 * `goOn`: it is the same installation, in another place; where it was, it does not start again. `beginAnew`: another
 * one, which owns no machine; machines of the old one are listed as strays and can be released.
 */
export type HowToRestore = 'goOn' | 'beginAnew'

/** It could not be brought back; the folder is as it was. */
class CannotRestore extends Error {
  override name = 'CannotRestore'
}

/** Labels of installations this one was restored from: machines that carry them are strays here. */
export const FORMER_INSTALLATIONS = 'former-installations'

/** @param folder must be empty, or not there @throws CannotRestore */
export async function restore(file: string, dataFolder: string, how: HowToRestore, now: number): Promise<Manifest> {
  const folder = resolve(dataFolder)
  if (existsSync(folder) && readdirSync(folder).length > 0)
    throw new CannotRestore(`${folder} is not empty: move away what is in it, or choose another with VORNAK_DATA.`)
  if (!existsSync(file)) throw new CannotRestore(`${file} is not there.`)
  const coming = `${folder}.restoring`
  rmSync(coming, { recursive: true, force: true })
  mkdirSync(coming, { recursive: true, mode: 0o700 })
  let left: FolderLock | undefined
  try {
    const manifest = await unpack(file, coming)
    if (how === 'goOn') left = holdFormer(manifest, folder)
    const store = openStore(join(coming, 'vornak.db'))
    try {
      if (how === 'beginAnew') beginAnew(store, manifest, now)
    }
    finally {
      store.close()
    }
    if (left) fenceOff(manifest.folder, folder)
    mkdirSync(join(coming, 'runs'), { recursive: true })
    rmSync(folder, { recursive: true, force: true })
    renameSync(coming, folder)
    return manifest
  }
  finally {
    left?.release()
    rmSync(coming, { recursive: true, force: true })
  }
}

/** @throws CannotRestore when it is no backup, or not as it was made */
async function unpack(file: string, into: string): Promise<Manifest> {
  const damaged = (why: string) => new CannotRestore(`${file} ${why}. Nothing was brought back.`)
  try {
    await extract({
      file,
      cwd: into,
      strict: true,
      filter: (path, entry) =>
        (path === MANIFEST || BACKED_UP.test(path)) && (!('type' in entry) || entry.type === 'File'),
    })
  }
  catch (error) {
    throw damaged(`cannot be unpacked: ${messageOf(error)}`)
  }
  if (!existsSync(join(into, MANIFEST))) throw damaged('is no backup of Vornak')
  const manifest = readManifest(join(into, MANIFEST))
  if (manifest.format !== BACKUP_FORMAT) throw damaged(`is a ${String(manifest.format)}, which this release cannot read`)
  if (!manifest.files.some(f => f.path === 'vornak.db')) throw damaged('has no database in it')
  for (const { path, sha256 } of manifest.files)
    if (!BACKED_UP.test(path) || !existsSync(join(into, path)) || (await sumOf(join(into, path))) !== sha256)
      throw damaged(`is damaged: ${path} is not what was put into it`)
  rmSync(join(into, MANIFEST))
  return manifest
}

/**
 * Where it was, if that is on this computer: it must not run there now. @returns undefined when it is not here
 * @throws FolderHeld when it runs, there or where it was brought back to before
 */
function holdFormer({ host, folder: former }: Manifest, folder: string): FolderLock | undefined {
  if (host !== hostname() || former === folder || !existsSync(join(former, 'vornak.db'))) return undefined
  return holdFolder(former)
}

function fenceOff(former: string, folder: string): void {
  writeFileSync(
    join(former, FENCE),
    `${former} was brought back from a backup to ${folder}, and goes on there. Two of it would order and release each other’s machines. If it is to go on here after all, take ${join(former, FENCE)} away.`,
  )
}

/** Nothing under way there is under way here, and nobody who knew that one knows this one. */
function beginAnew(store: Store, { installation }: Manifest, now: number): void {
  const facts = factStore(store)
  const reason = `it is under way at ${installation}, which this was brought back from`
  store.transaction(() => {
    leaveWhatIsUnderWay(store, now, reason)
    const former = fromStore<string[]>(facts.get(FORMER_INSTALLATIONS) ?? '[]')
    facts.set(FORMER_INSTALLATIONS, JSON.stringify([...former, installation]))
    facts.set('installation', `vornak-${randomBytes(3).toString('hex')}`)
    for (const name of ['secret', 'secret-sealed', 'door-key', 'mail-server', 'mail-password', 'figure-goal', 'figure-goal-authorization'])
      facts.drop(name)
    // Anyone who was told of runs by the other one, or has a link to it, is not told twice, and sees that one alone.
    store.exec(`
      DELETE FROM outbox;
      DELETE FROM run_streams;
      DELETE FROM sessions;
      DELETE FROM invitations WHERE machine_id IS NULL;
      DELETE FROM dispatches WHERE hook_id IS NOT NULL;
      DELETE FROM hooks;
      UPDATE dispatches SET next_at = NULL, trouble = 'given up: it was brought back beside another';
      UPDATE shared_links SET ended_at = ${Math.round(now)} WHERE ended_at IS NULL;
    `)
  })()
}
