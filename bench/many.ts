/** A run of many generators, as benches of what comes in need it: its document, and what each generator records. */
import type { RunDocument } from '../core/run/document'
import { NO_HEALTH, type Health } from '../core/capacity/signals'
import { Recorder, type RecorderOptions } from '../protocol/recorder'
import { NOT_ON_THE_LINE } from '../protocol/series-second'
import { benchDocument, step } from './document'

export const GENERATORS = 1000
export const STEPS = 10
export const LOCATIONS = 5
const SAMPLES = 10
/** Users at each location. */
const USERS = 2000

/** How many of what; left out: as above. */
export interface Size {
  steps: number
  locations: number
  /** Samples of one step in one generator's second. */
  samples: number
}
const USUAL: Size = { steps: STEPS, locations: LOCATIONS, samples: SAMPLES }

export function manyDocument(size: Size = USUAL, lengthMs = 0): RunDocument {
  const codes = Array.from({ length: size.locations }, (_, i) => `LO${'ABCDE'[i]}`)
  const to = size.locations * USERS
  const segments = [{ to, overMs: 0 }, ...(lengthMs > 0 ? [{ to, overMs: lengthMs }] : [])]
  return {
    ...benchDocument(
      '127.0.0.1:1',
      Array.from({ length: size.steps }, (_, i) => step({ name: `Step ${i}` })),
    ),
    plan: {
      schema: 'vornak-plan/3',
      name: '',
      question: '',
      targetId: 't',
      groups: [
        { letter: 'A', name: '', journeyId: 'j', profile: { startDelayMs: 0, segments } },
      ],
      locations: codes.map(code => ({ code, provider: 'n', region: 'r', machineType: 't', machines: 1 })),
      placement: { A: Object.fromEntries(codes.map(c => [c, USERS])) },
      objectives: [{ metric: 'p95', step: 'Step 3', atMost: 1000 }],
      assumedUsersPerVcpu: 1,
      rehearse: false,
      keepMachinesMin: 0,
      seed: 1,
    },
  }
}

/** Health of one that has room. */
const WELL: Health = {
  ...NO_HEALTH,
  cpuShare: 0.3,
  loopDelayP99Ms: 1,
  scheduleLagP99Ms: 1,
  memoryShare: 0.1,
  socketShare: 0.1,
}

/** A generator's recorder. @param health left out: of one that has room */
export function recorderOfOne(onFrame: RecorderOptions['onFrame'], health = () => WELL): Recorder {
  const recorder = new Recorder({ incarnation: 1, worker: 0, groups: 1, startedAt: 0, health, onFrame })
  recorder.present[0] = 100
  return recorder
}

/** Records one second of a generator, and cuts it. @param generator its number @param second of the run */
export function recordSecond(
  recorder: Recorder,
  generator: number,
  second: number,
  random: () => number,
  { steps, locations, samples }: Size = USUAL,
): void {
  for (let at = 0; at < steps; at++)
    for (let i = 0; i < samples; i++) {
      const series = (generator % locations) * (steps + 1) + at
      recorder.started(series, second * 1000)
      const ms = 50 + 200 * random() * random()
      // Begun a little late, as it goes; the first byte comes with the most of it.
      const firstByteMs = ms * (0.6 + 0.3 * random())
      recorder.right(series, second * 1000, ms, ms + random(), firstByteMs, {
        ...NOT_ON_THE_LINE,
        status: 200,
        bytes: 400 + Math.floor(200 * random()),
      })
    }
  recorder.roll((second + 1) * 1000)
}
