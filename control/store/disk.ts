/** Room for what runs write: looked at every few seconds, so that a run is drained before the disk is full. */
import { statfsSync, statSync } from 'node:fs'
import type { Cancel, Clock } from '../clock'
import { ControlError } from '../errors'
import { codeOf } from '../../core/values/thrown'

/** Between two looks, ms. */
const LOOK_MS = 5000
const MB = 1024 * 1024

export class Disk {
  private free: number
  private readonly ticker: Cancel

  /**
   * @param least free bytes below which nothing new begins and what runs is drained @param freeBytes of the folder's
   * disk; left out: asked of the system
   */
  constructor(
    folder: string,
    private readonly least: number,
    clock: Clock,
    freeBytes = () => freeOf(folder),
  ) {
    this.free = freeBytes()
    this.ticker = clock.every(LOOK_MS, () => {
      this.free = freeBytes()
    })
  }

  /** Free on the folder's disk, bytes. */
  get freeBytes(): number {
    return this.free
  }

  /** What is wrong, in words; undefined: there is room. */
  get trouble(): string | undefined {
    return this.free < this.least
      ? `${Math.floor(this.free / MB)} MB are left on the disk; below ${Math.round(this.least / MB)} MB nothing new begins, and what runs drains.`
      : undefined
  }

  /** @throws ControlError when nothing new may begin */
  hold(): void {
    const { trouble } = this
    if (trouble)
      throw new ControlError('disk', 507, trouble, 'Make room on the disk of the data folder, then start again.')
  }

  close(): void {
    this.ticker.cancel()
  }
}

/** Whether a write failed because there was no room for it: the same write works once there is. */
export function isNoRoom(error: unknown): boolean {
  const code = codeOf(error)
  return code === 'SQLITE_FULL' || code === 'SQLITE_IOERR_WRITE' || code === 'ENOSPC'
}

/** A disk that cannot be asked is not said to be full. */
function freeOf(folder: string): number {
  try {
    const { bavail, bsize } = statfsSync(folder)
    return bavail * bsize
  }
  catch {
    return Number.POSITIVE_INFINITY
  }
}

/** What a database takes, with what SQLite keeps beside it; 0: it is not there. Bytes. */
export function bytesOnDisk(path: string): number {
  return ['', '-wal'].reduce((sum, end) => sum + (statSync(path + end, { throwIfNoEntry: false })?.size ?? 0), 0)
}
