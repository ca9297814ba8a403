/** Tags of plans and of runs. */
export const MOST_TAG = 40
export const MOST_TAGS = 20

/** Tags as people type them, with commas between: each once, none empty, none longer and no more than are kept. */
export function readTags(text: string): string[] {
  return [...new Set(text.split(',').map(t => t.trim().slice(0, MOST_TAG)).filter(Boolean))].slice(0, MOST_TAGS)
}
