/** What can be wrong with a request to the coordinator: a code, what happened, what to do. */
import type { ErrorCode } from '../api/errors'

export class ControlError extends Error {
  override name = 'ControlError'
  /**
   * @param status HTTP status the server answers with
   * @param faults where in the body of the request it lies: names on the way to it, with dots between
   */
  constructor(
    readonly code: ErrorCode,
    readonly status: number,
    readonly sentence: string,
    readonly remedy: string,
    public faults?: readonly { at: string, sentence: string }[],
  ) {
    super(sentence)
  }

  /** The same, with the one place in the body of the request where it lies. */
  at(place: string): this {
    this.faults = [{ at: place, sentence: `${this.sentence} ${this.remedy}` }]
    return this
  }
}

export const notFound = (what: string) =>
  new ControlError('not-found', 404, `There is no ${what}.`, 'Go back to the list and choose another.')
/** @param what “plan” or “journey” @param version that is newest now */
export const savedMeanwhile = (what: string, version: number) =>
  new ControlError(
    'saved-meanwhile',
    409,
    `The ${what} was saved by somebody else meanwhile (version ${version}).`,
    'Your changes are still here: load the newer version in another tab and compare, then save again.',
  )
export const inTheWay = (sentences: string[]) =>
  new ControlError('in-the-way', 409, sentences.join(' '), 'Fix what is in the way, then start.')
export const notUnderWay = (id: number) =>
  new ControlError('not-under-way', 409, `Run ${id} is not under way.`, 'Nothing needs to be done.')
