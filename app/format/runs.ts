/** States of a run in words. */
import type { RunLine, RunStateName } from '~~/api/views'
import type { GlyphName } from '~/components/marks/glyphs'

export const RUN_STATE_WORDS: Record<RunStateName, string> = {
  queued: 'waiting for its turn', gathering: 'gathering machines', rollCall: 'calling the roll', rehearsing: 'rehearsing', armed: 'armed', warming: 'warming up', loading: 'loading', draining: 'draining',
  settled: 'settled', stopped: 'stopped', aborted: 'aborted', failed: 'failed',
}

/** How an answer is marked: a plain yes only where everything held at the load that was asked for. */
export const VERDICT_MARKS = {
  held: { glyph: 'held', tone: 'moss', word: 'held' },
  short: { glyph: 'costsSoundness', tone: 'plantx', word: 'held at less than was asked for' },
  broken: { glyph: 'broken', tone: 'brick', word: 'broken' },
  none: { glyph: 'none', tone: 'q', word: 'no answer' },
} as const satisfies Record<NonNullable<RunLine['verdict']>, { glyph: GlyphName, tone: string, word: string }>
