/** What the main thread of a generator and its worker threads say to each other. */
import type { RunDocument } from '../../core/plan/document'
import type { SlicedUser } from '../../core/plan/slice'
import type { HostFacts, RehearsedStep } from '../../protocol/messages'

export interface WorkerStart { worker: number, incarnation: number, host: HostFacts }

export type ToWorker =
  | { kind: 'prepare', runId: string, document: RunDocument, users: SlicedUser[], leaveMs: number }
  /** Monotonic moment shared by all threads: ms of `process.hrtime`. */
  | { kind: 'go', startAtHr: number }
  | { kind: 'rehearse', runId: string, document: RunDocument }
  | { kind: 'drain' }
  | { kind: 'abort' }

export type FromWorker =
  | { kind: 'prepared' }
  | { kind: 'rehearsed', steps: RehearsedStep[] }
  | { kind: 'frame', bytes: Uint8Array, sequence: number }
  | { kind: 'finished' }

/** Monotonic clock that all threads of a process share, ms. */
export function hrNow(): number {
  const [s, ns] = process.hrtime()
  return s * 1000 + ns / 1e6
}
