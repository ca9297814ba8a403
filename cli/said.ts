/** How a program of the command line ends: what people can do something about is a sentence, not a trace. */
import { ControlError } from '../control/errors'

export function runToEnd(main: () => Promise<void> | void): void {
  // Also what is thrown before the first wait.
  Promise.resolve().then(main).catch((error: unknown) => {
    if (error instanceof ControlError) console.error(`${error.sentence} ${error.remedy}`)
    else console.error(error instanceof Error ? error.message : error)
    process.exitCode = 1
  })
}
