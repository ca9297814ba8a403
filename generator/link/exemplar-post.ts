/** Sends exemplars beside the frames, in batches, and keeps each batch until it is acknowledged. */
import type { ExchangeRecord } from '../../core/journey/exchange-record'
import type { PassRecord } from '../../core/journey/pass-record'
import type { FromGenerator } from '../../protocol/messages'

/** Exemplars gather this long before they go, ms. */
const GATHER_MS = 1000
/** Most text in a batch, characters: a batch stays well below the largest message. */
const MOST_CHARACTERS = 600_000

type Batch = Extract<FromGenerator, { kind: 'exemplars' }>

export class ExemplarPost {
  private readonly unsafe = new Map<number, Batch>()
  private gathering: ExchangeRecord[] = []
  private gatheringPasses: PassRecord[] = []
  private characters = 0
  private nextBatch = 1
  private runId = ''
  private timer: NodeJS.Timeout | undefined

  constructor(
    private readonly incarnation: number,
    private readonly say: (message: FromGenerator) => void,
  ) {}

  add(runId: string, record: ExchangeRecord): void {
    const size = record.request.body.length + (record.answer?.body.length ?? 0) + 1500
    this.makeRoom(runId, size)
    this.gathering.push(record)
  }

  addPass(runId: string, record: PassRecord): void {
    this.makeRoom(runId, 300 + 300 * record.exchanges.length)
    this.gatheringPasses.push(record)
  }

  private makeRoom(runId: string, size: number): void {
    if (this.characters + size > MOST_CHARACTERS || (this.runId !== runId && !this.gathersNothing)) this.send(0)
    this.runId = runId
    this.characters += size
    this.timer ??= setTimeout(() => this.send(0), GATHER_MS)
  }

  private get gathersNothing(): boolean {
    return this.gathering.length === 0 && this.gatheringPasses.length === 0
  }

  /** Sends what has gathered. @param dropped exemplars the bound took, told once at the end */
  send(dropped: number, runId = this.runId): void {
    clearTimeout(this.timer)
    this.timer = undefined
    if (this.gathersNothing && dropped === 0) return
    const batch: Batch = {
      kind: 'exemplars',
      runId,
      incarnation: this.incarnation,
      batch: this.nextBatch++,
      records: this.gathering,
      passes: this.gatheringPasses,
      dropped,
    }
    this.gathering = []
    this.gatheringPasses = []
    this.characters = 0
    this.unsafe.set(batch.batch, batch)
    this.say(batch)
  }

  acknowledge(incarnation: number, batch: number): void {
    if (incarnation === this.incarnation) this.unsafe.delete(batch)
  }

  /** The link is up again: what may be lost is said once more. */
  again(): void {
    for (const batch of this.unsafe.values()) this.say(batch)
  }

  /** Everything sent is safe. */
  get empty(): boolean {
    return this.unsafe.size === 0 && this.gathersNothing
  }
}
