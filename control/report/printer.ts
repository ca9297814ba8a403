/**
 * Prints reports in a thread of its own, one report each: setting type takes a while, and the coordinator's own loop
 * stays free. The thread makes itself ready while figures are still gathered. A report that takes too long ends its
 * thread alone.
 */
import { Worker } from 'node:worker_threads'
import type { Report } from '../../core/report/report'
import { ControlError } from '../errors'

export type ReportForm = 'html' | 'pdf' | 'markdown'

/** What the thread begins with; the report itself is told when it is there. */
export interface PrintJob {
  form: ReportForm
}
export type Printed = { content: string | Uint8Array } | { trouble: string }

/** Nobody waits longer, ms. */
const MOST_MS = 60_000

export class Printer {
  /** @param program file of the worker */
  constructor(private readonly program: string) {}

  /** @param gather what is to be printed @throws ControlError; what gathering throws */
  async print(gather: () => Report | Promise<Report>, form: ReportForm): Promise<string | Uint8Array> {
    const worker = new Worker(this.program, { workerData: { form } satisfies PrintJob })
    const printed = printedBy(worker)
    // The one that gathers may fail first, and is then the one that tells.
    printed.catch(() => {})
    try {
      worker.postMessage(await gather())
      return await printed
    }
    finally {
      void worker.terminate()
    }
  }
}

function printedBy(worker: Worker): Promise<string | Uint8Array> {
  return new Promise((resolve, reject) => {
    const fail = (sentence: string) =>
      reject(
        new ControlError(
          'report',
          500,
          `The report could not be made: ${sentence}`,
          'Show less of it, or make it in another form.',
        ),
      )
    const timer = setTimeout(() => fail(`it was not ready after ${MOST_MS / 1000} s.`), MOST_MS)
    worker.once('message', (printed: Printed) =>
      'content' in printed ? resolve(printed.content) : fail(printed.trouble))
    worker.once('error', error => fail(error.message))
    worker.once('exit', () => {
      clearTimeout(timer)
      fail('its thread has ended.')
    })
  })
}
