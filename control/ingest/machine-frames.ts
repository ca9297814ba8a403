/** What each machine measured, from its own frames. */
import type { SumOf } from '../../core/merge/series-sum'
import { machineSeriesNumber } from '../../core/run/machine-series'
import type { WorkerSecond } from '../../core/run/machine-course'
import { addMerged, openFrame } from '../../protocol/frame'
import type { Store } from '../store/open'

/**
 * Adds every series of every machine over run seconds `fromS` (inclusive) to `toS` (exclusive).
 *
 * @param into where one is added, by {@link machineSeriesNumber}; undefined: nowhere
 */
export function addFrames(store: Store, fromS: number, toS: number, into: SumOf, seriesCount: number): void {
  const frames = store.prepare<[number, number], { generator: number, bytes: Buffer }>(
    'SELECT generator, bytes FROM frames WHERE second >= ? AND second < ?',
  )
  for (const { generator, bytes } of frames.iterate(fromS, toS))
    addMerged(openFrame(bytes), series => into(machineSeriesNumber(generator, series, seriesCount)))
}

/** What the workers of one generator told of themselves over run seconds `fromS` (inclusive) to `toS` (exclusive). */
export function* workerSeconds(
  store: Store,
  generator: number,
  fromS = 0,
  toS = Number.MAX_SAFE_INTEGER,
): Generator<WorkerSecond> {
  const frames = store.prepare<[number, number, number], { bytes: Buffer }>(
    'SELECT bytes FROM frames WHERE generator = ? AND second >= ? AND second < ?',
  )
  for (const { bytes } of frames.iterate(generator, fromS, toS)) {
    const { second, users, health } = openFrame(bytes).top
    yield { second, users, health }
  }
}
