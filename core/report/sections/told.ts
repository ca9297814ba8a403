/** What a section has to say. */
import type { ReportSection } from '../report'

export type Told = Pick<ReportSection, 'aside' | 'blocks'>

/** A section with nothing to say says so, and why. */
export const nothing = (text: string): Told => ({ blocks: [{ kind: 'text', text }] })
