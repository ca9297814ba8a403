/** What a location takes, in words and figures. */
import type { LocationSize } from '~~/api/views'
import type { SignalLoad } from '~~/core/fleet/sizing'
import { SIGNAL_WORDS } from '~~/core/capacity/signals'

export function machinesOf(size: Pick<LocationSize, 'machines'>): number {
  return size.machines.reduce((sum, m) => sum + m.count, 0)
}

/** `2 × brisk-2, 1 × brisk-1` */
export function sayTaken({ machines }: Pick<LocationSize, 'machines'>): string {
  return machines.map(m => `${m.count} × ${m.type.name}${m.interruptible ? ', interruptible' : ''}`).join(' + ')
}

/** One word, for narrow places. */
export function loadWord(signal: SignalLoad['signal']): string {
  if (signal === 'assumed') return 'assumed'
  return signal === 'tried' ? 'tried' : SIGNAL_WORDS[signal]
}
