/** The shapes that say how something stands, 12 × 12, as SVG: alike on screens and in reports. */
export const MARK_SHAPES = {
  broken: '<path d="M1 2h10v3.2L6.6 6.4 5.4 5.6 1 6.8z M1 9l4.2-1.2 1.2.9L11 7.6V11H1z" fill="currentColor"/>',
  held: '<path d="M1.5 2.5h9M1.5 9.5h9" stroke="currentColor" stroke-width="1.4"/><path d="M2.5 6h7" stroke="currentColor" stroke-width="2.4"/>',
  short: '<path d="M6 1.2 11 10.6H1z" fill="none" stroke="currentColor" stroke-width="1.3"/>',
  none: '<path d="M2 6h8" stroke="currentColor" stroke-width="1.3" stroke-dasharray="2 2"/>',
} as const
