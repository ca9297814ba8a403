/**
 * Work that nobody asked for and nobody waits for: by the clock, or on word of a thread. What goes wrong in it is told
 * among the faults, and reaches neither the process nor what comes next.
 */
import type { Clock } from '../clock'
import type { InnerFaults } from './faults'

/** The same call, of which what goes wrong is told; once it goes well again, it is not told any more. */
export function unasked<Of extends unknown[]>(
  what: string,
  faults: Pick<InnerFaults, 'tell' | 'settle'>,
  call: (...of: Of) => void,
): (...of: Of) => void {
  let isFailing = false
  return (...of) => {
    try {
      call(...of)
      if (isFailing) faults.settle(what)
      isFailing = false
    }
    catch (error) {
      isFailing = true
      faults.tell(what, error)
    }
  }
}

/** A clock that tells what goes wrong in what it calls. */
export function tellingClock(clock: Clock, faults: Pick<InnerFaults, 'tell' | 'settle'>): Clock {
  const what = 'Something that was due by the clock'
  return {
    now: () => clock.now(),
    after: (ms, call) => clock.after(ms, unasked(what, faults, call)),
    every: (ms, call) => clock.every(ms, unasked(what, faults, call)),
  }
}
