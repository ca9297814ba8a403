/** Files of the programs that Vornak starts: built side by side. */
import { join } from 'node:path'
import type { CoordinatorOptions } from '../control/coordinator'

/** @param folder they were built into */
export function programsIn(folder: string): CoordinatorOptions['programs'] {
  const file = (program: string) => join(folder, `${program}.mjs`)
  return {
    mergeWorker: file('merge-worker'),
    clearWorker: file('clear-worker'),
    importWorker: file('import-worker'),
    elsewhereWorker: file('elsewhere-worker'),
    reportWorker: file('report-worker'),
    sizingWorker: file('sizing-worker'),
    generator: file('generator'),
    sink: file('answering-sink'),
  }
}
