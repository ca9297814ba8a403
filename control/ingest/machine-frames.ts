/** What each machine measured, from its own frames. */
import type { SumOf, Timing } from '../../core/merge/series-sum'
import { machineSeriesNumber } from '../../core/run/machine-series'
import type { WorkerSecond } from '../../core/run/machine-course'
import { addMerged, openFrame } from '../../protocol/frame'
import type { Store } from '../store/open'
import { KeptFrames } from './kept-frames'
import { MachineSeconds } from './machine-seconds'

/**
 * Adds every series of every machine over run seconds `fromS` (inclusive) to `toS` (exclusive).
 *
 * @param into where one is added, by {@link machineSeriesNumber}; undefined: nowhere
 * @param timings histograms that are added
 */
export function addFrames(
  store: Store,
  fromS: number,
  toS: number,
  into: SumOf,
  seriesCount: number,
  timings?: readonly Timing[],
): void {
  new KeptFrames(store).each(fromS, toS, (generator, bytes) =>
    addMerged(openFrame(bytes), series => into(machineSeriesNumber(generator, series, seriesCount)), timings))
}

/** What one generator told of itself over run seconds `fromS` (inclusive) to `toS` (exclusive). */
export function* workerSeconds(
  store: Store,
  generator: number,
  fromS = 0,
  toS = Number.MAX_SAFE_INTEGER,
): Generator<WorkerSecond> {
  const isByMinutes = store.prepare('SELECT 1 FROM machine_minutes LIMIT 1').get() !== undefined
  if (isByMinutes) return yield* new MachineSeconds(store).of(generator, fromS, toS)
  // Files of earlier releases have it in their frames alone.
  const frames = store.prepare<[number, number, number], { bytes: Buffer }>(
    'SELECT bytes FROM frames WHERE generator = ? AND second >= ? AND second < ?',
  )
  for (const { bytes } of frames.iterate(generator, fromS, toS)) {
    const { second, users, health } = openFrame(bytes).top
    yield { second, users, health }
  }
}
