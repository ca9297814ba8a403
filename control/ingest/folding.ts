/**
 * Folds the frames of a run that is over: once the sums of its machines are made, what the generators sent is deleted,
 * and of the machines' sums the finer ones. What is left of it is told in core/run/folded. It cannot be undone.
 */
import { stretchesEndS } from '../../core/run/folded'
import { openFrame } from '../../protocol/frame'
import { openRunFile, type Store } from '../store/open'
import { KeptFrames } from './kept-frames'
import { MachineSeconds } from './machine-seconds'
import { MachineSums } from './machine-sums'

/** @throws Error when the file cannot be written; it is whole then */
export function foldFrames(path: string): void {
  const store = openRunFile(path)
  try {
    const sums = new MachineSums(store)
    if (sums.foldedS !== undefined) return
    while (sums.makeMore());
    store
      .transaction(() => {
        keepMinutes(store)
        const upTo = store.prepare<[], string>('SELECT value FROM facts WHERE name = \'mergedUpTo\'').pluck().get()
        const endS = Number(upTo ?? -1) + 1
        new KeptFrames(store).dropBefore(stretchesEndS(10, endS))
        sums.fold(endS)
      })
      .immediate()
  }
  finally {
    store.close()
  }
}

/** What generators told of themselves: files of earlier releases have it in their frames alone. */
function keepMinutes(store: Store): void {
  if (store.prepare('SELECT 1 FROM machine_minutes LIMIT 1').get() !== undefined) return
  const seconds = new MachineSeconds(store)
  new KeptFrames(store).each(0, Number.MAX_SAFE_INTEGER, (generator, bytes) => {
    seconds.note(generator, openFrame(bytes).top)
  })
  seconds.save()
}
