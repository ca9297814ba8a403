/**
 * The import worker: reads what comes from elsewhere, away from the coordinator's loop. The last capture is remembered,
 * for a review is asked for many times.
 */
import { readFileSync } from 'node:fs'
import { readHarFile } from '../../core/formats/har-file'
import type { RecordedVisit } from '../../core/formats/har'
import { harToJourney, reviewHar, usualChoices } from '../../core/formats/har-to-journey'
import { readJourneyText } from '../../core/formats/journey-text'
import { openApiToJourney, readOpenApi, reviewOpenApi } from '../../core/formats/openapi'
import { journeyOfUrls, readUrls } from '../../core/formats/pasted-urls'
import { readPlanText } from '../../core/formats/plan-text'
import { csvRows } from '../hosts/read-hosts'
import type { FromImportWorker, ToImportWorker } from './imports'
import { readFeed } from './read-feed'
import { port } from '../parent-port'

const tell = (message: FromImportWorker) => port.postMessage(message)
let remembered: { path: string, capture: RecordedVisit } | undefined

function captureAt(path: string): RecordedVisit {
  if (remembered?.path !== path) remembered = { path, capture: readHarFile(readFileSync(path)) }
  return remembered.capture
}

const handlers: { [K in ToImportWorker['kind']]: (message: Extract<ToImportWorker, { kind: K }>) => unknown } = {
  feed: ({ from, to, reading }) => readFeed(from, to, reading),
  reviewHar({ path, choices }) {
    const capture = captureAt(path)
    const chosen = choices ?? usualChoices(capture)
    return { review: reviewHar(capture, chosen), choices: chosen }
  },
  convertHar: ({ path, choices }) => harToJourney(captureAt(path), choices),
  reviewOpenApi: ({ path }) => reviewOpenApi(readOpenApi(readFileSync(path, 'utf8'))),
  convertOpenApi: ({ path, ids }) => openApiToJourney(readOpenApi(readFileSync(path, 'utf8')), ids),
  journeyText: ({ text }) => readJourneyText(text),
  planText: ({ text }) => readPlanText(text),
  hosts: ({ text }) => csvRows(text),
  urls: ({ text }) => journeyOfUrls(readUrls(text)),
}

port.on('message', (message: ToImportWorker) => {
  void Promise.resolve()
    // A handler and its message are of the same kind, which the compiler does not see.
    .then(() => (handlers[message.kind] as (m: ToImportWorker) => unknown)(message))
    .then(
      result => tell({ kind: 'answer', id: message.id, result }),
      (error: Error & { remedy?: string, sentence?: string }) =>
        tell({
          kind: 'trouble',
          id: message.id,
          sentence:
            error.sentence ?? (error instanceof RangeError ? 'It is nested too deeply to be read.' : error.message),
          remedy: error.remedy ?? (error instanceof RangeError ? 'Write it flatter.' : undefined),
        }),
    )
})
