/** What a request that fails is answered: code, sentence and remedy. */
import type { ApiProblem } from '../api/views'
import type { ControlError } from '../control/errors'

/** @param error anything that was thrown: a problem of its own, or a mistake of ours, which goes to the console */
export function problemOf(error: unknown): { status: number, problem: ApiProblem } {
  if (isProblem(error)) {
    const { status, code, sentence, remedy, faults } = error
    return { status, problem: { code, sentence, remedy, ...(faults ? { faults: [...faults] } : {}) } }
  }
  console.error(error)
  return {
    status: 500,
    problem: {
      code: 'fault',
      sentence: 'Vornak made a mistake of its own; nothing was changed.',
      remedy: 'See the console of the server, and report it.',
    },
  }
}

/** Told by its form: the coordinator's errors may come from another bundle. */
function isProblem(error: unknown): error is ApiProblem & { status: number } {
  // Of whatever was thrown, each of these may be missing.
  const known = error as Partial<ControlError> | null
  return typeof known?.status === 'number' && typeof known.sentence === 'string'
}
