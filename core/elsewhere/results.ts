/** Files of results, and what is found in them before they become a run. */
import type { FileReading } from './reading'
import type { SampleFault } from './sample'

/** How it is known who was there: told with the rows, by the users that rows name, or not. */
export type Presence = 'told' | 'named' | 'nobody'

/** A file as it is wanted. */
export interface WantedFile {
  /** Content id. */
  file: string
  name: string
  reading: FileReading
  /** Where it was measured, where its rows do not say. */
  place: string
  /** Its clock is moved by so much, ms. */
  shiftMs: number
}

/** A file's name without what says its form. */
export const stemOf = (name: string): string => name.replace(/(\.[a-z]{2,5}){1,2}$/i, '') || name

/** What a run is to be made of. */
export interface ImportWish {
  name: string
  files: WantedFile[]
  /** Number of a run of this house that they join: it stays as it is, and is in the new one beside them. */
  joins?: number
  /** Name of the step whose first sample is a moment that all files share. */
  mark?: string
  /** Of equal rows in several files that do not name their user: all count (so where it is left out), or one each. */
  unnamedDoubles?: 'keep' | 'leaveOut'
  /** As they are written in a plan. */
  objectives?: string[]
  /** Build of the target, as its people call it. */
  build?: string
}

/** A way of reading that is kept, by its name. */
export interface ReadingTemplate {
  name: string
  reading: FileReading
}

/** What is found in one file. Moments on its own clock, ms. */
export interface ScannedFile {
  file: string
  name: string
  rows: number
  firstMs: number | undefined
  lastMs: number | undefined
  /** The most frequent first. */
  steps: { name: string, count: number }[]
  places: string[]
  wrong: number
  /** Answers of which nobody says how long they took. */
  withoutTime: number
  /** Rows that stand for several: means, which no percentile can be made of. */
  averages: number
  faults: SampleFault[]
  faultCount: number
  /** How it is known who was there. */
  usersBy: Presence
  peakUsers: number
  /** Its clock begins with the test. */
  isOwnClock: boolean
  /** First sample of the step that is the shared mark. */
  markMs?: number
  /** The same file was given before: it is left out. */
  sameAs?: string
}

export interface Scanned {
  files: ScannedFile[]
  doubles: Doubles
}

/** Rows that stand in several files. */
export interface Doubles {
  /** They name their user: counted once. */
  named: number
  /** They do not, and may honestly be equal. */
  unnamed: number
}

/** What became of lines that were told live. */
export interface TakenLines {
  taken: number
  /** It was here before: nothing was counted again. */
  again?: boolean
  faults: SampleFault[]
  faultCount: number
}
