/** What a section has to say. */
import type { ReportSection } from '../report'

export type ToldSection = Pick<ReportSection, 'aside' | 'blocks'>

/** A section with nothing to say says so, and why. */
export const nothing = (text: string): ToldSection => ({ blocks: [{ kind: 'text', text }] })
