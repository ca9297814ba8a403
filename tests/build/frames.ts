/** Frames as a generator would send them, from what it would have measured. */
import { NO_HEALTH } from '../../core/capacity/signals'
import { Recorder, type CutFrame } from '../../protocol/recorder'
import { NOT_ON_THE_LINE } from '../../protocol/series-second'

/** One exchange of a made-up generator. */
export interface Sample {
  series: number
  startS: number
  ms: number
  fails?: boolean
}

const RIGHT = { ...NOT_ON_THE_LINE, status: 200, bytes: 100 }
const WRONG = { ...NOT_ON_THE_LINE, status: 503, bytes: 10 }

/** Frames of one worker for these samples, the last one closing. @param users present all along, of one group */
export function framesOf(samples: Sample[], { incarnation = 1, worker = 0, users = 3, seconds = 0 } = {}): CutFrame[] {
  const frames: CutFrame[] = []
  const recorder = new Recorder({
    incarnation,
    worker,
    groups: 1,
    startedAt: 0,
    health: () => ({
      ...NO_HEALTH,
      cpuShare: 0.2,
      loopDelayP99Ms: 1,
      scheduleLagP99Ms: 1,
      memoryShare: 0.1,
      socketShare: 0.01,
    }),
    onFrame: f => frames.push(f),
  })
  recorder.present[0] = users
  const events = samples
    .flatMap(s => [
      { at: s.startS * 1000, act: () => recorder.started(s.series, s.startS * 1000) },
      {
        at: s.startS * 1000 + s.ms,
        act: () =>
          s.fails
            ? recorder.failed(s.series, s.startS * 1000 + s.ms, 'status', 'sent', s.ms, WRONG)
            : recorder.right(s.series, s.startS * 1000 + s.ms, s.ms, s.ms, s.ms / 2, RIGHT),
      },
    ])
    .sort((a, b) => a.at - b.at)
  for (const e of events) e.act()
  recorder.roll(seconds * 1000)
  recorder.finish(Math.max(seconds * 1000, events.at(-1)?.at ?? 0))
  return frames
}
