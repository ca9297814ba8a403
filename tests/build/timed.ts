/**
 * Tests that hold measured times against expected ones need a computer that keeps time: neighbours of a virtual one
 * take its CPU for minutes on end.
 */
import { cpuTicks, MOST_STOLEN, saidOf, stolenSince } from './stolen'
import { tellUndecided } from './undecided'

const MOST_TRIES = 2

/** What a test needs was not to be had on this computer now. */
export class Undecided extends Error {}

class Inexact extends Error {}

/** What is counted, not timed, in a test of times: no computer excuses it. Counts come before any time is judged. */
export async function exactly(check: () => void | Promise<void>): Promise<void> {
  try {
    await check()
  }
  catch (error) {
    throw new Inexact('it does not count right', { cause: error })
  }
}

/**
 * Like `it`. Tried again when it failed *and* CPU was stolen meanwhile, then left undecided; a failure on a quiet
 * computer is one at once.
 */
export function timed(name: string, check: () => Promise<void>, timeoutMs: number): void {
  it(
    name,
    async () => {
      for (let tries = 1; ; tries++) {
        const before = cpuTicks()
        try {
          return await check()
        }
        catch (error) {
          if (error instanceof Inexact) throw error.cause
          if (error instanceof Undecided) return tellUndecided(name, error.message)
          const stolen = stolenSince(before)
          if (stolen < MOST_STOLEN) throw error
          const why = saidOf(stolen)
          if (tries === MOST_TRIES) return tellUndecided(name, `${why}: ${(error as Error).message}`)
          process.stderr.write(`“${name}” is tried again: ${why}.\n`)
        }
      }
    },
    timeoutMs * MOST_TRIES,
  )
}
