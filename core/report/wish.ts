/** What a report is to show, as people choose it and keep it by a name. */
import { object } from '../values/json-schema'
import type { Paper } from './report'
import { keysIn } from '../values/written-out'

/** Sections after the answer, in their usual order. */
export const SECTION_NAMES = {
  asked: 'Asked and done',
  curve: 'The curve',
  objectives: 'Objectives',
  baseline: 'Against the baseline',
  steps: 'Slowest and failing steps',
  failures: 'Failures',
  places: 'By group, location and network',
  target: 'The target’s own account',
  evidence: 'Evidence',
  cost: 'Cost',
  happened: 'What happened',
  setUp: 'Set-up in full',
  method: 'How it was measured',
} as const
export type SectionId = keyof typeof SECTION_NAMES
export const SECTION_IDS = keysIn(SECTION_NAMES)

/** Shown where nobody chose: what answers the question, and what it rests on. */
const USUAL: readonly SectionId[] = ['asked', 'curve', 'objectives', 'steps', 'evidence', 'cost', 'method']

export interface SectionWish {
  id: SectionId
  isShown: boolean
  /** Markdown under its title. */
  note?: string
}

export interface ReportWish {
  /** Left out, or empty: the plan's name and its question. */
  title?: string
  subtitle?: string
  organisation?: string
  audience?: string
  /** PNG or SVG, as a data URI. */
  logo?: string
  /** In their order; those that are not named come after, and are not shown. */
  sections: SectionWish[]
  /** Steps that are told one by one. */
  steps: number
  /** What figures are of: the highest level that was judged, the whole run, or a window of run seconds. */
  over: 'judged' | 'whole' | { fromS: number, toS: number }
  paper: Paper
}

export const USUAL_WISH: ReportWish = {
  sections: SECTION_IDS.map(id => ({ id, isShown: USUAL.includes(id) })),
  steps: 6,
  over: 'judged',
  paper: 'A4',
}

/** Letters of a picture's data URI, at most. */
export const MOST_LOGO = 400_000
const second = { type: 'integer', minimum: 0 }

export const REPORT_WISH_SCHEMA = object(
  {
    sections: {
      type: 'array',
      maxItems: SECTION_IDS.length,
      items: object({ id: { enum: SECTION_IDS }, isShown: { type: 'boolean' } }, { note: { type: 'string', maxLength: 4000 } }),
    },
    steps: { type: 'integer', minimum: 1, maximum: 500 },
    over: { anyOf: [{ enum: ['judged', 'whole'] }, object({ fromS: second, toS: second })] },
    paper: { enum: ['A4', 'letter'] },
  },
  {
    title: { type: 'string', maxLength: 200 },
    subtitle: { type: 'string', maxLength: 300 },
    organisation: { type: 'string', maxLength: 200 },
    audience: { type: 'string', maxLength: 200 },
    logo: {
      type: 'string',
      maxLength: MOST_LOGO,
      pattern: '^data:image/(png|svg\\+xml);base64,[A-Za-z0-9+/]+=*$',
      description: 'a PNG or SVG as a data URI in base64',
    },
  },
)

/** Every section once, in the order that was wished. */
export function allSections(wished: readonly SectionWish[]): SectionWish[] {
  const once = wished.filter((s, i) => wished.findIndex(other => other.id === s.id) === i)
  const left = SECTION_IDS.filter(id => !once.some(s => s.id === id))
  return [...once, ...left.map(id => ({ id, isShown: false }))]
}
