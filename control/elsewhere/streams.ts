/** Programs elsewhere that tell of a run while they measure: each by a token of its own, of its own place. */
import type { OpenedStream, StreamsView } from '../../api/views'
import { claimedDocument, MOST_CLAIMED_PLACES, planIdOf } from '../../core/elsewhere/claimed-document'
import type { TakenLines } from '../../core/elsewhere/results'
import { samplesIn } from '../../core/elsewhere/sample-line'
import type { Clock } from '../clock'
import { ControlError } from '../errors'
import type { Ingest } from '../ingest/ingest'
import { newStreamToken } from '../people/stream-tokens'
import type { Conductor } from '../run/conductor'
import type { RunStreamStore, RunStream } from '../store/run-streams'
import type { RunStore, StoredRun } from '../store/runs'
import { ENDED } from '../../core/run/life'
import { messageOf } from '../../core/values/thrown'
import { present } from '../../core/values/present'
import { NOTHING_SAID } from '../../core/run/about'

export interface StreamsOptions {
  store: RunStreamStore
  runs: RunStore
  clock: Clock
  conductor: Pick<Conductor, 'takeUp' | 'firstWord'>
  ingest: Pick<Ingest, 'told'>
  /** @throws ControlError when there is no room */
  hold: () => void
  onChange: (runId: number) => void
}

export interface OpenWish {
  name: string
  /** Where each of those who will tell measures. */
  places: string[]
  /** Build of the target, as its people call it. */
  build?: string
}

/** Nothing was told for so long: the run is taken to be over, ms. */
const SILENT_MS = 30 * 60_000

export class Streams {
  constructor(private readonly options: StreamsOptions) {}

  /** Makes a run that waits for its first lines. @returns its number, and the tokens, which are shown once */
  open({ name, places, build }: OpenWish): { run: number, streams: OpenedStream[] } {
    const { store, runs, clock, conductor, hold, onChange } = this.options
    hold()
    if (places.length > MOST_CLAIMED_PLACES || new Set(places).size < places.length)
      throw new ControlError('form', 400, 'Each place is named once, and there are 100 at most.', 'Leave some out.')
    const now = clock.now()
    const document = claimedDocument({
      name,
      senders: places.map(place => ({ name: place, place, how: 'stream' })),
      steps: [],
      lengthS: 60,
      peakUsers: 0,
      goesOn: true,
    })
    const streams: OpenedStream[] = []
    let run = 0
    runs.together(() => {
      run = runs.create(planIdOf(name), document, now)
      runs.remark(run, 'queued', 'created', `told from elsewhere, by ${places.join(', ')}`, now)
      runs.change(run, { at: now, from: 'queued', to: 'armed', event: 'toldOf', reason: 'it waits for its first lines' }, false)
      if (build) runs.setAbout(run, { ...NOTHING_SAID, build })
      places.forEach((place, sender) => {
        const { token, hash } = newStreamToken()
        store.add({ runId: run, sender, name: place, hash, at: Math.round(now) })
        streams.push({ place, token })
      })
    })
    conductor.takeUp(run)
    onChange(run)
    return { run, streams }
  }

  of(runId: number): StreamsView {
    return this.options.store.ofRun(runId).map(({ name, createdAt, heardAt, taken, faulty, endedAt }) => ({
      place: name,
      createdAt,
      ...(heardAt === undefined ? {} : { heardAt }),
      taken,
      faulty,
      ...(endedAt === undefined ? {} : { endedAt }),
    }))
  }

  /** Takes lines; they are safe when this is answered. @throws ControlError */
  async take(
    stream: RunStream,
    bytes: Uint8Array,
    { batch, sentAt }: { batch?: number, sentAt?: number },
  ): Promise<TakenLines> {
    const { store, clock, conductor, ingest } = this.options
    const { runId, sender, name } = stream
    this.holdOpen(runId, name)
    const receivedAt = clock.now()
    if (this.run(runId).startAt === undefined) conductor.firstWord(runId, startOf(bytes, receivedAt, sentAt))
    const { startAt } = this.run(runId)
    if (startAt === undefined) throw new ControlError('stream', 409, 'The run does not go on.', 'Open another one.')
    let taken: TakenLines
    try {
      taken = await ingest.told(runId, {
        sender, bytes, startAt, receivedAt,
        ...(sentAt === undefined ? {} : { sentAt }), ...(batch === undefined ? {} : { batch }),
      })
    }
    catch (error) {
      throw new ControlError('stream', 503, `The lines were not taken: ${messageOf(error)}.`, 'Send the same batch again.')
    }
    store.heard({ runId, sender, at: Math.round(receivedAt), taken: taken.taken, faulty: taken.faultCount })
    return taken
  }

  /** It has said its last word; the run is over when all have. @throws ControlError */
  end({ runId, sender, name }: RunStream): void {
    const { store, clock } = this.options
    this.holdOpen(runId, name)
    store.end({ runId, sender, at: Math.round(clock.now()) })
  }

  private run(id: number): StoredRun {
    return present(this.options.runs.run(id), `run ${id}, of which a program tells`)
  }

  /** @throws ControlError when nothing more is taken */
  private holdOpen(runId: number, name: string): void {
    const run = this.run(runId)
    const stream = this.options.store.ofRun(runId).find(s => s.name === name)
    if (ENDED.includes(run.state) || run.state === 'draining' || stream?.endedAt !== undefined)
      throw new ControlError('stream', 409, `Run ${runId} takes no more from ${name}: it is over.`, 'Open another run.')
  }
}

/** Run second 0: the second in which the first of the first lines began. ms since 1970 */
function startOf(bytes: Uint8Array, receivedAt: number, sentAt: number | undefined): number {
  const offset = sentAt === undefined ? 0 : receivedAt - sentAt
  let first = receivedAt
  for (const { read } of samplesIn(new TextDecoder().decode(bytes))) {
    if (typeof read === 'string') continue
    first = Math.min(first, (read.atMs === undefined ? receivedAt : read.atMs + offset) - read.durationMs)
  }
  // A clock that is far off says nothing of when it began.
  return Math.floor((receivedAt - first < SILENT_MS ? first : receivedAt) / 1000) * 1000
}

/** Why no more is to be expected; undefined: they go on. @param now ms since 1970 */
export function toldOver(streams: readonly RunStream[], now: number): string | undefined {
  if (streams.every(s => s.endedAt !== undefined)) return 'all who told of it have said their last word'
  const heard = Math.max(...streams.map(s => s.endedAt ?? s.heardAt ?? 0))
  // Before the first word it is waited for, however long.
  return heard > 0 && now - heard > SILENT_MS ? `nothing was told for ${SILENT_MS / 60_000} min` : undefined
}
