/** Colours of paper: the light theme's, alike in every form a report has. */
import type { Mark } from '../../core/report/report'

export const PAPER = '#FFFFFF'
export const INK = '#1B2426'
export const QUIET = '#566165'
export const HAIR = '#DED9CE'
export const SHADE = '#EFEBE1'
export const PLAN = '#B57B00'
export const BRICK = '#B23A2B'
export const MARK_COLOURS: Record<Mark | 'none', string> = { held: '#44732F', short: '#8A5A00', broken: BRICK, none: QUIET }
