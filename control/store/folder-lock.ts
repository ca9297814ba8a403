/**
 * One process per data folder. The lock is SQLite's own on a file of its own: the system gives it back when the process
 * ends, however it ends.
 */
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { hostname } from 'node:os'
import { join } from 'node:path'
import Database from 'better-sqlite3'
import { codeOf } from '../../core/values/thrown'

/** Another process has this folder. */
export class FolderHeld extends Error {
  override name = 'FolderHeld'
}

export interface FolderLock {
  release(): void
}

/** Its installation goes on elsewhere: what stands in it says where. */
export const FENCE = 'goes-on-elsewhere.txt'

/** @throws FolderHeld, which says who holds it, or where it goes on */
export function holdFolder(folder: string): FolderLock {
  mkdirSync(folder, { recursive: true, mode: 0o700 })
  if (existsSync(join(folder, FENCE))) throw new FolderHeld(readFileSync(join(folder, FENCE), 'utf8'))
  const holder = join(folder, 'held-by.txt')
  const lock = new Database(join(folder, 'lock.db'), { timeout: 0 })
  try {
    lock.exec('BEGIN EXCLUSIVE')
  }
  catch (error) {
    lock.close()
    if (codeOf(error) !== 'SQLITE_BUSY') throw error
    throw new FolderHeld(
      `${folder} is held by ${whoIn(holder)}. Two processes would order machines and merge results against each other: end that one, or choose another folder with VORNAK_DATA.`,
    )
  }
  writeFileSync(holder, `process ${process.pid} on ${hostname()}, since ${new Date().toISOString()}`)
  return {
    release() {
      lock.exec('ROLLBACK')
      lock.close()
    },
  }
}

function whoIn(file: string): string {
  try {
    return readFileSync(file, 'utf8')
  }
  catch {
    return 'another process'
  }
}
