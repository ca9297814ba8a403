/**
 * What people say of a run, while it goes on or long after. Nothing is measured or judged by it; the build tells
 * repeats from others.
 */
export interface RunAbout {
  /** Empty: it is called by its plan's question. */
  name: string
  notes: string
  tags: string[]
  /** It is wanted again soon. */
  pinned: boolean
  /** Which build of the target was under load, as its people call it; empty: nobody said. */
  build: string
}

export const NOTHING_SAID: RunAbout = { name: '', notes: '', tags: [], pinned: false, build: '' }
