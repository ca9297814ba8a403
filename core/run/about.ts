/** What people say of a run, while it goes on or long after; nothing is measured or judged by it. */
export interface RunAbout {
  /** Empty: it is called by its plan's question. */
  name: string
  notes: string
  tags: string[]
  /** It is wanted again soon. */
  pinned: boolean
}

export const NOTHING_SAID: RunAbout = { name: '', notes: '', tags: [], pinned: false }
