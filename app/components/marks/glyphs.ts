import { MARK_SHAPES } from '~~/core/report/mark-shapes'

/** The glyphs, 12 × 12: machine states (more ink = more in hand), verdicts and weights. */
export const GLYPHS = {
  asked: '<rect x="1.5" y="1.5" width="9" height="9" fill="none" stroke="currentColor" stroke-dasharray="2 1.6"/>',
  allocated: '<rect x="1.5" y="1.5" width="9" height="9" fill="none" stroke="currentColor"/>',
  booting:
    '<rect x="1.5" y="1.5" width="9" height="9" fill="none" stroke="currentColor"/><rect x="3" y="8" width="6" height="1.5" fill="currentColor"/>',
  installing:
    '<rect x="1.5" y="1.5" width="9" height="9" fill="none" stroke="currentColor"/><rect x="3" y="7" width="6" height="2.5" fill="currentColor"/>',
  enrolled:
    '<rect x="1.5" y="1.5" width="9" height="9" fill="none" stroke="currentColor"/><rect x="3" y="6" width="6" height="3.5" fill="currentColor"/>',
  ready:
    '<rect x="1.5" y="1.5" width="9" height="9" fill="none" stroke="currentColor"/><rect x="3.5" y="3.5" width="5" height="5" fill="currentColor"/>',
  loading: '<rect x="1" y="1" width="10" height="10" fill="currentColor"/>',
  draining:
    '<path d="M1.5 1v9.5h9V1" fill="none" stroke="currentColor"/><path d="M1.5 10.5h9V7.5l-9 -3z" fill="currentColor"/>',
  releasing: '<path d="M1.5 6v4.5h9V6" fill="none" stroke="currentColor"/>',
  released: '<path d="M1 10.5h10" stroke="currentColor" stroke-width="1.4"/>',
  refused:
    '<rect x="1.5" y="1.5" width="9" height="9" fill="none" stroke="currentColor" stroke-dasharray="2 1.6"/><path d="M1 6h10" stroke="currentColor" stroke-width="2"/>',
  failed:
    '<rect x="1.5" y="1.5" width="9" height="9" fill="none" stroke="currentColor"/><path d="M3.5 3.5l5 5M8.5 3.5l-5 5" stroke="currentColor" stroke-width="1.5"/>',
  unfit:
    '<rect x="1.5" y="1.5" width="9" height="9" fill="none" stroke="currentColor"/><path d="M3.5 8.5l5-5" stroke="currentColor" stroke-width="1.5"/>',
  lost: '<path d="M1 1h4.2L4 4l2 3-1.6 4H1zM7.6 1H11v10H6.8L8.3 7 6.3 4z" fill="currentColor"/>',
  reclaimed:
    '<path d="M1 1h5v5h5v5H1z" fill="currentColor"/><path d="M8 1.5h2.5V4" fill="none" stroke="currentColor"/>',
  releaseUnconfirmed:
    '<path d="M1.5 5v5.5h9V5" fill="none" stroke="currentColor"/><path d="M6 1v4M6 6.5v1.4" stroke="currentColor" stroke-width="1.4"/>',
  stray:
    '<path d="M6 .6 11.4 6 6 11.4.6 6z" fill="none" stroke="currentColor" stroke-width="1.4"/><path d="M6 3.6v3M6 7.6v1.2" stroke="currentColor" stroke-width="1.4"/>',
  broken: MARK_SHAPES.broken,
  held: MARK_SHAPES.held,
  inTheWay: '<path d="M1 5h10v2.4H1z M2.4 1.5h1.8v9H2.4z M7.8 1.5h1.8v9H7.8z" fill="currentColor"/>',
  costsSoundness: MARK_SHAPES.short,
  toKnow: '<circle cx="6" cy="6" r="3" fill="none" stroke="currentColor" stroke-width="1.3"/>',
  unknown: '<path d="M1.5 10.5 10.5 1.5M1.5 6l4.5-4.5M6 10.5 10.5 6" stroke="currentColor" stroke-width="1.3"/>',
  none: MARK_SHAPES.none,
} as const

export type GlyphName = keyof typeof GLYPHS
