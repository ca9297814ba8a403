/**
 * A report as it is read, before it is a page, a PDF or a text: who it is for, the answer, and sections of blocks. All
 * that is printed is decided here; what makes files of it only sets type.
 */
import type { Answer } from '../objectives/judge'

export interface Report {
  title: string
  subtitle: string
  /** Who it comes from, and who it is for; empty: nothing stands there. */
  organisation: string
  audience: string
  /** A picture as a data URI. */
  logo?: string
  /** “run 41, 26 Nov 2026 08:00 UTC”. */
  about: string
  answer: { verdict: Answer['verdict'], sentence: string, why?: string }
  sections: ReportSection[]
  paper: Paper
}

export type Paper = 'A4' | 'letter'

export interface ReportSection {
  /** Of this report alone. */
  id: string
  title: string
  /** What its figures are of; beside the title. */
  aside?: string
  /** Markdown of the person who made the report. */
  note?: string
  blocks: Block[]
}

export type Block
  = | { kind: 'text', text: string, mark?: Mark }
    | { kind: 'list', items: { text: string, mark?: Mark, then?: string }[] }
    | Table
    | { kind: 'curve', curve: Curve }

/** Said by a word and a shape beside it, never by colour alone. */
export type Mark = 'held' | 'short' | 'broken'

export interface Table {
  kind: 'table'
  columns: { name: string, isFigure?: boolean }[]
  rows: ReportCell[][]
  /** Of all rows together. */
  foot?: ReportCell[]
}

export interface ReportCell {
  text: string
  /** What rows are sorted by, where it is not the text. */
  by?: number
  mark?: Mark
  isStrong?: boolean
}

/** What happened over the run, in staffs one above the other, all over the same time. */
export interface Curve {
  fromS: number
  toS: number
  binS: number
  /** Stretches that were judged. */
  judged: { fromS: number, toS: number }[]
  staffs: CurveStaff[]
}

export interface CurveStaff {
  name: string
  unit: 'users' | 'ms' | 'perSecond' | 'share'
  /** A value per bin; null: nothing there. */
  lines: { name: string, look: 'ink' | 'planned' | 'bars', values: (number | null)[] }[]
  limit?: { value: number, says: string }
  /** Stretches beyond the limit. */
  broken?: { fromS: number, toS: number, worst: string }[]
}
