/** Makes the machines' sums of runs that are over, ten seconds at a time: who asks meanwhile is answered between. */
import { existsSync } from 'node:fs'
import { openRunFile } from '../store/open'
import { MachineSums } from './machine-sums'

/** Files whose sums are being made. */
const underWay = new Set<string>()

/** Begins, where they are not made and not being made. What fails is left: its seconds are read from frames. */
export function sumMachines(path: string): void {
  if (underWay.has(path)) return
  underWay.add(path)
  const next = () => {
    if (makeMore(path)) setImmediate(next)
    else underWay.delete(path)
  }
  setImmediate(next)
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
