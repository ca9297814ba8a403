/** What is said to the merge worker, and what it says. */
import type { Spread } from '../../core/compare/spread'
import type { TakenLines } from '../../core/elsewhere/results'
import type { SecondRows } from '../../core/formats/seconds-table'
import type { ExchangeRecord } from '../../core/journey/exchange-record'
import type { PassRecord } from '../../core/journey/pass-record'
import type { SecondFigures } from '../../core/merge/second-figures'
import type { BrokenStretch } from '../../core/result/stretches'
import type { MachineCourse, MachineRecord } from '../../core/run/machine-course'
import type { RunMachine } from '../../core/run/machine-series'
import type { Bins, Course } from '../../core/result/course'
import type { Distribution } from '../../core/result/distribution'
import type { FailureReport } from '../../core/result/failures'
import type { SliceOver, Slices, SliceWish } from '../../core/result/slices'
import type { StaffWish } from '../../core/result/staff'
import type { RunFacts, RunSummary } from '../../core/result/summary'
import type { OurCount } from '../../core/result/three-way'
import type { RunDocument } from '../../core/run/document'
import type { ExemplarsWanted, FoundExemplars } from './exemplars'
import type { Leftover } from './leftovers'
import type { MeasuresWanted } from './measures'
import type { FoundPasses, PassesWanted } from './passes'
import type { WindowFigures } from './run-reader'
import type { ToldLines } from './told-live'
import type { SecondsWish } from './told-seconds'
import type { Ack, RunGenerator } from './run-merge'

/** A run that is asked about: its file, its document, and its generators by their numbers. */
export interface AskedRun {
  path: string
  document: RunDocument
  machines: readonly RunMachine[]
}

/** What it is asked, and what it answers. */
export interface MergeQuestions {
  told: { asks: { runId: number, lines: ToldLines }, answer: TakenLines }
  leftovers: { asks: { path: string }, answer: Leftover[] }
  readLeftover: {
    asks: { path: string, generator: number, group: string, name: string }
    answer: Uint8Array | undefined
  }
  settle: { asks: { runId: number, facts: RunFacts }, answer: RunSummary }
  window: {
    asks: { path: string, document: RunDocument, fromS: number, toS: number, pathMs: Record<string, number> }
    answer: WindowFigures
  }
  slices: { asks: AskedRun & { fromS: number, toS: number, wish: SliceWish }, answer: Slices }
  everySecond: { asks: AskedRun & { fromS: number, toS: number, wish: SliceWish }, answer: SecondRows[] }
  distributions: {
    asks: AskedRun & { of: readonly SliceOver[], limitsMs: readonly number[] }
    answer: Distribution[]
  }
  courses: { asks: AskedRun & { staffs: readonly StaffWish[], bins: Bins }, answer: Course[] }
  failures: { asks: AskedRun & { fromS: number, toS: number, only: SliceWish['only'] }, answer: FailureReport }
  requestCounts: { asks: AskedRun, answer: Record<string, OurCount> }
  measures: { asks: AskedRun & { wanted: MeasuresWanted }, answer: Spread[] }
  machineRecords: { asks: { path: string, generators: number }, answer: MachineRecord[] }
  machineCourse: { asks: { path: string, generator: number, fromS: number, toS: number }, answer: MachineCourse }
  findPasses: { asks: { path: string, wanted: PassesWanted }, answer: FoundPasses }
  findExemplars: { asks: { path: string, wanted: ExemplarsWanted }, answer: FoundExemplars }
  /** `machines`: how many generators it has; 0: none whose signals are known. */
  seconds: { asks: { path: string, wish: SecondsWish, machines: number }, answer: SecondFigures[] }
  /** It is about to be ended: answered when it has nothing in hand. */
  rest: { asks: object, answer: undefined }
  histogramLog: { asks: { path: string, document: RunDocument, startAt: number }, answer: string }
}

type Question = {
  [K in keyof MergeQuestions]: MergeQuestions[K]['asks'] & { kind: K, id: number }
}[keyof MergeQuestions]

export type ToMergeWorker =
  | Question
  | { kind: 'open', runId: number, path: string, document: RunDocument, generators: RunGenerator[] }
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
  | { kind: 'leave', runId: number, generator: number, second: number }
  /** Makes the machines' sums of a run that is over. */
  | { kind: 'sumMachines', path: string }

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
