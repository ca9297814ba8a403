/** Every second of a run as a file, made piece by piece while it is read. */
import { secondsCsv, secondsCsvHead, secondsJsonLines, type SecondRows } from '../../core/formats/seconds-table'
import type { Dimension } from '../../core/result/slices'

export interface SecondsFile {
  by: Dimension
  as: 'csv' | 'jsonLines'
}

/** Seconds asked for at once: a fraction of a second's work each. */
const AT_ONCE_S = 30

/** @param ask rows of each second of a window */
export async function* exportedSeconds(
  ask: (fromS: number, toS: number, by: Dimension) => Promise<SecondRows[]>,
  lengthS: number,
  { by, as }: SecondsFile,
): AsyncGenerator<string> {
  if (as === 'csv') yield secondsCsvHead(by)
  for (let from = 0; from < lengthS; from += AT_ONCE_S) {
    const rows = await ask(from, Math.min(lengthS, from + AT_ONCE_S), by)
    const text = as === 'csv' ? secondsCsv(rows) : secondsJsonLines(rows, by)
    if (text !== '') yield text
  }
}
