/** What is said to the merge worker, and what it says. */
import type { ExchangeRecord } from '../../core/journey/exchange-record'
import type { PassRecord } from '../../core/journey/pass-record'
import type { SecondFigures } from '../../core/merge/second-figures'
import type { BrokenStretch } from '../../core/result/stretches'
import type { RunMachine } from '../../core/run/machine-series'
import type { Bins } from '../../core/result/course'
import type { SliceOver, SliceWish } from '../../core/result/slices'
import type { StaffWish } from '../../core/result/staff'
import type { RunFacts } from '../../core/result/summary'
import type { RunDocument } from '../../core/run/document'
import type { ExemplarsWanted } from './exemplars'
import type { MeasuresWanted } from './measures'
import type { PassesWanted } from './passes'
import type { ToldLines } from './told-live'
import type { SecondsWish } from './told-seconds'
import type { Ack, RunGenerator } from './run-merge'

/** A run that is asked about: its file, its document, and its generators by their numbers. */
export interface AskedRun {
  path: string
  document: RunDocument
  machines: readonly RunMachine[]
}

export type ToMergeWorker =
  | { kind: 'open', runId: number, path: string, document: RunDocument, generators: RunGenerator[] }
  | { kind: 'told', id: number, runId: number, lines: ToldLines }
  /** `newest`: run second that no frame can be about yet. */
  | { kind: 'frame', runId: number, generator: number, bytes: Uint8Array, newest: number }
  | {
    kind: 'exemplars'
    runId: number
    path: string
    generator: number
    incarnation: number
    batch: number
    records: ExchangeRecord[]
    passes: PassRecord[]
    dropped: number
  }
  | {
    kind: 'leftover'
    runId: number
    path: string
    generator: number
    group: string
    name: string
    content: Uint8Array
  }
  | { kind: 'leftovers', id: number, path: string }
  | { kind: 'readLeftover', id: number, path: string, generator: number, group: string, name: string }
  | { kind: 'leave', runId: number, generator: number, second: number }
  | { kind: 'settle', id: number, runId: number, facts: RunFacts }
  | {
    kind: 'window'
    id: number
    path: string
    document: RunDocument
    fromS: number
    toS: number
    pathMs: Record<string, number>
  }
  | (AskedRun & { kind: 'slices', id: number, fromS: number, toS: number, wish: SliceWish })
  | (AskedRun & { kind: 'everySecond', id: number, fromS: number, toS: number, wish: SliceWish })
  | (AskedRun & { kind: 'distributions', id: number, of: readonly SliceOver[], limitsMs: readonly number[] })
  | (AskedRun & { kind: 'courses', id: number, staffs: readonly StaffWish[], bins: Bins })
  | (AskedRun & { kind: 'failures', id: number, fromS: number, toS: number, only: SliceWish['only'] })
  | (AskedRun & { kind: 'requestCounts', id: number })
  | (AskedRun & { kind: 'measures', id: number, wanted: MeasuresWanted })
  | { kind: 'machineRecords', id: number, path: string, generators: number }
  | { kind: 'machineCourse', id: number, path: string, generator: number, fromS: number, toS: number }
  | { kind: 'findPasses', id: number, path: string, wanted: PassesWanted }
  | { kind: 'findExemplars', id: number, path: string, wanted: ExemplarsWanted }
  /** `machines`: how many generators it has; 0: none whose signals are known. */
  | { kind: 'seconds', id: number, path: string, wish: SecondsWish, machines: number }
  /** It is about to be ended: answered when it has nothing in hand. */
  | { kind: 'rest', id: number }
  /** Makes the machines' sums of a run that is over. */
  | { kind: 'sumMachines', path: string }
  | { kind: 'histogramLog', id: number, path: string, document: RunDocument, startAt: number }

export type FromMergeWorker =
  | { kind: 'flushed', runId: number, acks: Ack[], seconds: SecondFigures[], finished: number[] }
  | { kind: 'grown', runId: number, document: RunDocument }
  | { kind: 'exemplarsKept', runId: number, generator: number, incarnation: number, batch: number }
  /** Something of a generator could not be read and is set aside; `frame`: it is wanted again. */
  | { kind: 'aside', runId: number, generator: number, what: 'frame' | 'exemplars' | 'other', sentence: string }
  /** A run's merge could not go on: it has to be opened again, from what its file holds. */
  | { kind: 'broken', runId: number, sentence: string }
  /** Where objectives were broken so far, up to a run second. */
  | { kind: 'brokenSoFar', runId: number, stretches: BrokenStretch[], untilS: number }
  | { kind: 'answer', id: number, result: unknown }
  | { kind: 'trouble', id: number, sentence: string }
