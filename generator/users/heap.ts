/** How worker threads use their memory: pauses of the collector are what makes users late. */
import { setFlagsFromString } from 'node:v8'
import type { ResourceLimits } from 'node:worker_threads'

/**
 * Half of the young generation is copied at once while users wait; small, a copy takes 5 ms instead of 24 (3 × 4 MB;
 * measured with 4,500 users).
 */
const YOUNG_MB = 12
/**
 * The old generation grows by so much before it is looked through: each time costs what is alive, not what is garbage.
 */
const LEAST_OLD_MB = 64
const MOST_OLD_MB = 512
/** Share of the machine's memory for that, over all workers. */
const OLD_SHARE = 1 / 8

/**
 * Limits of one worker; what limits cannot say is set as flags, which threads made from now on take over. @param
 * memoryBytes of the machine @param workers threads it will have
 */
export function workerHeap(memoryBytes: number, workers: number): ResourceLimits {
  const oldMb = Math.round(
    Math.min(MOST_OLD_MB, Math.max(LEAST_OLD_MB, (memoryBytes * OLD_SHARE) / workers / 1024 / 1024)),
  )
  // Left alone, the collector starts with some 30 MB and goes through everything once a second: 10 to 15 ms each.
  setFlagsFromString(`--initial-old-space-size=${oldMb}`)
  return { maxYoungGenerationSizeMb: YOUNG_MB, maxOldGenerationSizeMb: 4096 }
}
