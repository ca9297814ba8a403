/** `ingest`: 1,000 generators × 10 steps × 1 Hz through decoding, store and live feed: share of one core. */
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { RunMerge } from '../control/ingest/run-merge'
import { seededRandom } from '../core/random/seeded'
import { GENERATORS, LOCATIONS, manyDocument, recorderOfOne, recordSecond, STEPS } from './many'
import { cpuMsOf, tell } from './measure'

export async function benchIngest(quick: boolean): Promise<void> {
  const seconds = quick ? 3 : 30
  const folder = mkdtempSync(join(tmpdir(), 'vornak-bench-'))
  const random = seededRandom(3)
  const merge = new RunMerge(
    join(folder, 'run.db'),
    manyDocument(),
    Array.from({ length: GENERATORS }, (_, i) => ({ machineId: `m${i}`, name: `G-${i}`, location: i % LOCATIONS })),
  )
  const frames: Uint8Array[][] = Array.from({ length: seconds }, () => [])
  for (let g = 0; g < GENERATORS; g++) {
    const recorder = recorderOfOne(f => frames[f.second]?.push(f.bytes))
    for (let s = 0; s < seconds; s++) recordSecond(recorder, g, s, random)
  }
  let fed = 0
  const cpuMs = await cpuMsOf(() => {
    for (const second of frames) {
      second.forEach((bytes, g) => merge.take(g, bytes))
      // Two flushes a second as in the worker; the live feed is made into the text that is sent.
      for (let i = 0; i < 2; i++) fed += JSON.stringify(merge.flush().seconds).length
    }
  })
  merge.close()
  rmSync(folder, { recursive: true })
  if (fed === 0) throw new Error('nothing was fed')
  const share = cpuMs / (seconds * 1000)
  tell({
    bench: 'ingest',
    case: `${GENERATORS} generators, ${STEPS} steps, 1 Hz`,
    value: share,
    unit: 'cores',
    reference: 1,
    ratio: share,
    goal: '≤ 0.35',
  })
}
