/** `ingest`: 1,000 generators × 10 steps × 1 Hz through decoding, store and live feed: share of one core. */
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { RunMerge } from '../control/ingest/run-merge'
import type { RunDocument } from '../core/run/document'
import { NO_HEALTH } from '../core/capacity/signals'
import { seededRandom } from '../core/random/seeded'
import { Recorder } from '../protocol/recorder'
import { benchDocument, step } from './document'
import { cpuMsOf, tell } from './measure'

const GENERATORS = 1000
const STEPS = 10
const LOCATIONS = 5
/** Samples of one step in one generator's second. */
const SAMPLES = 10

export async function benchIngest(quick: boolean): Promise<void> {
  const seconds = quick ? 3 : 30
  const folder = mkdtempSync(join(tmpdir(), 'vornak-bench-'))
  const codes = Array.from({ length: LOCATIONS }, (_, i) => `LO${'ABCDE'[i]}`)
  const document: RunDocument = {
    ...benchDocument(
      '127.0.0.1:1',
      Array.from({ length: STEPS }, (_, i) => step({ name: `Step ${i}` })),
    ),
    plan: {
      schema: 'vornak-plan/3',
      name: '',
      question: '',
      targetId: 't',
      groups: [
        { letter: 'A', name: '', journeyId: 'j', profile: { startDelayMs: 0, segments: [{ to: 1, overMs: 0 }] } },
      ],
      locations: codes.map(code => ({ code, provider: 'n', region: 'r', machineType: 't', machines: 1 })),
      placement: { A: Object.fromEntries(codes.map(c => [c, 2000])) },
      objectives: [{ metric: 'p95', step: 'Step 3', atMost: 1000 }],
      assumedUsersPerVcpu: 1,
      rehearse: false,
      keepMachinesMin: 0,
      seed: 1,
    },
  }
  const random = seededRandom(3)
  const merge = new RunMerge(
    join(folder, 'run.db'),
    document,
    Array.from({ length: GENERATORS }, (_, i) => ({ machineId: `m${i}`, name: `G-${i}`, location: i % LOCATIONS })),
  )
  const frames: Uint8Array[][] = Array.from({ length: seconds }, () => [])
  for (let g = 0; g < GENERATORS; g++) {
    const recorder = new Recorder({
      incarnation: 1,
      worker: 0,
      groups: 1,
      startedAt: 0,
      health: () => ({
        ...NO_HEALTH,
        cpuShare: 0.3,
        loopDelayP99Ms: 1,
        scheduleLagP99Ms: 1,
        memoryShare: 0.1,
        socketShare: 0.1,
      }),
      onFrame: f => frames[f.second]?.push(f.bytes),
    })
    recorder.present[0] = 100
    for (let s = 0; s < seconds; s++) {
      for (let at = 0; at < STEPS; at++)
        for (let i = 0; i < SAMPLES; i++) {
          const series = (g % LOCATIONS) * (STEPS + 1) + at
          recorder.started(series, s * 1000)
          const ms = 50 + 200 * random() * random()
          recorder.right(series, s * 1000, ms, ms, ms / 2, -1, 500)
        }
      recorder.roll((s + 1) * 1000)
    }
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
