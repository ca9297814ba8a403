/** Reads what programs send: on each beat, what came since the one before. */
import { byMoment } from '../../core/target/lines'
import { SourceReadings, type CounterState, type Point } from '../../core/target/readings'
import type { Source } from '../../core/target/source'
import type { Letterbox, Listening } from './inbox'
import { ageOf, type SourceReader, type SourceReading } from './source-reader'

export class SentReader implements SourceReader {
  private readonly readings: SourceReadings
  private readonly listening: Listening

  constructor(
    source: Source,
    box: Letterbox,
    private readonly now: () => number,
    runId: number,
    counters?: CounterState,
  ) {
    this.readings = new SourceReadings(source, runId, counters)
    this.listening = box.listen()
  }

  get counters(): CounterState {
    return this.readings.state
  }

  read(): Promise<SourceReading> {
    const points: Point[] = []
    let beganAnew = false
    for (const { samples, at } of this.listening.taken()) {
      const reading = this.readings.takeMoments(byMoment(samples), at)
      points.push(...reading.points)
      beganAnew ||= reading.beganAnew
    }
    const readAt = this.now()
    return Promise.resolve({ points, beganAnew, readAt, ageMs: ageOf({ points }, readAt), clock: undefined })
  }

  close(): void {
    this.listening.end()
  }
}
