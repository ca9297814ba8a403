/** How a run's answer is marked. */
import type { RunLine } from '~~/api/views'
import type { GlyphName } from '~/components/marks/glyphs'

/** A plain yes only where everything held at the load that was asked for. */
export const VERDICT_MARKS = {
  held: { glyph: 'held', tone: 'moss', word: 'held' },
  short: { glyph: 'costsSoundness', tone: 'plantx', word: 'held at less than was asked for' },
  broken: { glyph: 'broken', tone: 'brick', word: 'broken' },
  none: { glyph: 'none', tone: 'q', word: 'no answer' },
} as const satisfies Record<NonNullable<RunLine['verdict']>, { glyph: GlyphName, tone: string, word: string }>

/** How a run is marked in lists: by its answer, or by having failed. */
export function markOf(run: RunLine) {
  if (run.state === 'failed') return { glyph: 'inTheWay', tone: 'brick', word: 'failed' } as const
  const mark = VERDICT_MARKS[run.verdict ?? 'none']
  return { ...mark, word: run.verdict ? mark.word : run.state }
}
