/** What a location takes, in words and figures. */
import type { LocationSize } from '~~/api/views'
import type { SignalLoad, TakenMachines } from '~~/core/fleet/sizing'
import { SIGNAL_WORDS } from '~~/core/capacity/signals'
import { runTime } from './moments'

export function machinesOf(size: Pick<LocationSize, 'machines'>): number {
  return size.machines.reduce((sum, m) => sum + m.count, 0)
}

/** `2 × brisk-2 + 1 × brisk-1, +20:00 to +40:00` */
export function sayTaken({ machines }: Pick<LocationSize, 'machines'>): string {
  return machines
    .map(
      m =>
        `${m.count} × ${m.type.name}${m.interruptible ? ', interruptible' : ''}${m.shift ? `, ${sayShift(m.shift)}` : ''}`,
    )
    .join(' + ')
}

/** When machines for the peak have users, run time. */
export function sayShift({ fromMs, toMs }: NonNullable<TakenMachines['shift']>): string {
  return `${runTime(fromMs / 1000)} to ${runTime(toMs / 1000)}`
}

/** Load of the fullest once the spares are lost; without end where nothing would be left to carry it. */
export const onceLost = ({ withSparesLost = Number.POSITIVE_INFINITY }: LocationSize): number => withSparesLost

/** One word, for narrow places. */
export function loadWord(signal: SignalLoad['signal']): string {
  if (signal === 'assumed') return 'assumed'
  return signal === 'tried' ? 'tried' : SIGNAL_WORDS[signal]
}
