/** Makes the machines' sums of runs that are over, ten seconds at a time: questions are answered between. */
import { existsSync } from 'node:fs'
import { openRunFile } from '../store/open'
import { MachineSums } from './machine-sums'

/** The answer to what is over is looked at first, ms. */
const AFTER_MS = 2000
/** Files whose sums are being made. */
const underWay = new Set<string>()
let isOver = false

/** Begins, where they are not made and not being made. What fails is left: its seconds are read from frames. */
export function sumMachines(path: string): void {
  if (underWay.has(path)) return
  underWay.add(path)
  const next = () => {
    if (!isOver && makeMore(path)) setImmediate(next)
    else underWay.delete(path)
  }
  setTimeout(next, AFTER_MS)
}

/** What is in hand is the last. */
export function sumNoMore(): void {
  isOver = true
}

function makeMore(path: string): boolean {
  // It may have been given back.
  if (!existsSync(path)) return false
  try {
    const store = openRunFile(path)
    try {
      return new MachineSums(store).makeMore()
    }
    finally {
      store.close()
    }
  }
  catch {
    return false
  }
}
