/** The cursor of the stave: a moment at which every staff says its value. It is the end of the second that is told. */

export interface CursorReading {
  /** Run time, whole seconds from 1; undefined: nothing is read. */
  at: number | undefined
  /** It stays where it is while the mouse moves on. */
  pinned: boolean
}

export const NO_READING: CursorReading = { at: undefined, pinned: false }

/** Further with Shift held, s. */
const FAR_S = 10

/** What a key does to the cursor; undefined: nothing. @param span of the stave */
export function moved(
  reading: CursorReading,
  { key, shiftKey }: Pick<KeyboardEvent, 'key' | 'shiftKey'>,
  { fromS, toS }: { fromS: number, toS: number },
): CursorReading | undefined {
  const to = (at: number): CursorReading => ({ at: Math.min(toS, Math.max(fromS + 1, at)), pinned: true })
  const by = shiftKey ? FAR_S : 1
  switch (key) {
    case 'ArrowLeft':
      return to((reading.at ?? toS + 1) - by)
    case 'ArrowRight':
      return to((reading.at ?? fromS) + by)
    case 'Home':
      return to(fromS + 1)
    case 'End':
      return to(toS)
    case 'Escape':
      return reading.at === undefined ? undefined : NO_READING
    default:
      return undefined
  }
}

/** Reads “+12:52”, “12:52”, “1:02:03” or “772”, s. @returns undefined when it is none of these */
export function readRunTime(text: string): number | undefined {
  const parts = /^\s*\+?\s*(\d+)(?::(\d{1,2}))?(?::(\d{1,2}))?\s*s?\s*$/.exec(text)?.slice(1).filter(p => p !== undefined)
  if (!parts || parts.slice(1).some(p => Number(p) > 59)) return undefined
  return parts.reduce((sum, p) => sum * 60 + Number(p), 0)
}
