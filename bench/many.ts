/** A run of many generators, as benches of what comes in need it: its document, and what each generator records. */
import type { RunDocument } from '../core/run/document'
import { NO_HEALTH } from '../core/capacity/signals'
import { Recorder, type RecorderOptions } from '../protocol/recorder'
import { NOT_ON_THE_LINE } from '../protocol/series-second'
import { benchDocument, step } from './document'

export const GENERATORS = 1000
export const STEPS = 10
export const LOCATIONS = 5
/** Samples of one step in one generator's second. */
const SAMPLES = 10

export function manyDocument(): RunDocument {
  const codes = Array.from({ length: LOCATIONS }, (_, i) => `LO${'ABCDE'[i]}`)
  return {
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
}

/** A generator's recorder, with health as of one that has room. */
export function recorderOfOne(onFrame: RecorderOptions['onFrame']): Recorder {
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
    onFrame,
  })
  recorder.present[0] = 100
  return recorder
}

/** Records one second of a generator, and cuts it. @param generator its number @param second of the run */
export function recordSecond(recorder: Recorder, generator: number, second: number, random: () => number): void {
  for (let at = 0; at < STEPS; at++)
    for (let i = 0; i < SAMPLES; i++) {
      const series = (generator % LOCATIONS) * (STEPS + 1) + at
      recorder.started(series, second * 1000)
      const ms = 50 + 200 * random() * random()
      recorder.right(series, second * 1000, ms, ms, ms / 2, { ...NOT_ON_THE_LINE, status: 200, bytes: 500 })
    }
  recorder.roll((second + 1) * 1000)
}
