/** Why a source could not be read, at which step, and what to do. */

/** Agreed to, reached, answers, can be read. */
export type SourceStep = 'approval' | 'connection' | 'answer' | 'page'

export class SourceTrouble extends Error {
  override name = 'SourceTrouble'

  constructor(
    readonly step: SourceStep,
    message: string,
    readonly remedy: string,
  ) {
    super(message)
  }
}
