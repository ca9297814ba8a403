/**
 * A run whose frames were folded: what generators sent second by second is gone, and its sums are what is left. Of all
 * together they are there for every second; machines are told apart in whole stretches alone, as long as fit into the
 * run: of 1,000 s from its beginning, of 100 s and 10 s at its end, and of its last few seconds each.
 */

/** A window of run seconds: from one (inclusive) to another (exclusive). */
export interface Seconds {
  fromS: number
  toS: number
}

const STRETCHES_S = [1000, 100, 10] as const

/** Where stretches of this length end, run second (exclusive). @param endS how long the run was, s */
export function stretchesEndS(lengthS: (typeof STRETCHES_S)[number], endS: number): number {
  return Math.floor(endS / lengthS) * lengthS
}

/** The shortest window of whole stretches around one. @param endS how long the run was, s */
export function wholeStretches({ fromS, toS }: Seconds, endS: number): Seconds {
  const beginOf = (second: number) => Math.floor(second / stretchAtS(second, endS)) * stretchAtS(second, endS)
  const last = Math.min(toS, endS) - 1
  return {
    fromS: beginOf(Math.min(fromS, endS)),
    toS: last < 0 ? 0 : beginOf(last) + stretchAtS(last, endS),
  }
}

/** How long the stretch is that a second lies in, s. */
export function stretchAtS(second: number, endS: number): number {
  return STRETCHES_S.find(length => second < stretchesEndS(length, endS)) ?? 1
}
