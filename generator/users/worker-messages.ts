/** What the main thread of a generator and its worker threads say to each other. */
import type { ExchangeRecord } from '../../core/journey/exchange-record'
import type { PassRecord } from '../../core/journey/pass-record'
import type { RunDocument } from '../../core/run/document'
import type { Slice } from '../../core/run/slice'
import type { HostFacts } from '../../protocol/messages'
import type { DealerPost } from '../journey/feed-dealer'
import type { FetchedSupplies } from '../link/supplies'

export interface WorkerStart {
  worker: number
  incarnation: number
  host: HostFacts
  proxy?: string
}

export type ToWorker =
  /** `lastsMs`: frames go on until then, run time. */
  | {
    kind: 'prepare'
    runId: string
    document: RunDocument
    slice: Slice
    lastsMs: number
    leaveMs: number
    supplies: FetchedSupplies
    post: DealerPost
  }
  /** Monotonic moment shared by all threads: ms of `process.hrtime`. */
  | { kind: 'go', startAtHr: number }
  /** One user goes once through each journey. `id` names the question. */
  | { kind: 'try', id: string, runId: string, document: RunDocument, supplies: FetchedSupplies }
  /** What a held rate takes: mean time between two requests of one user, s, and no rate above this, 1/s. */
  | { kind: 'rate', group: number, betweenS: number, mostRate: number }
  /** How many users a group of a calibration should have, over all generators. */
  | { kind: 'steer', group: number, users: number }
  /** Of a lost generator. */
  | { kind: 'takeOver', slice: Slice }
  | { kind: 'drain' }
  | { kind: 'abort' }

export type FromWorker =
  | { kind: 'prepared' }
  | { kind: 'unprepared', problem: string }
  | { kind: 'tried', id: string, records: ExchangeRecord[], problem: string }
  | { kind: 'frame', bytes: Uint8Array, sequence: number }
  | { kind: 'exemplar', record: ExchangeRecord }
  | { kind: 'pass', record: PassRecord }
  /** `dropped`: exemplars the bound took. */
  | { kind: 'finished', dropped: number }

/** Monotonic clock that all threads of a process share, ms. */
export function hrNow(): number {
  const [s, ns] = process.hrtime()
  return s * 1000 + ns / 1e6
}
