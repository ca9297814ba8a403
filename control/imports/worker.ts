/** The import worker: reads captures and feeds, away from the coordinator's loop. The last capture is remembered, for a review is asked for many times. */
import { readFileSync } from 'node:fs'
import { parentPort } from 'node:worker_threads'
import { readHar, type Capture } from '../../core/formats/har'
import { harToJourney, reviewHar, usualChoices } from '../../core/formats/har-to-journey'
import type { FromImportWorker, ToImportWorker } from './imports'
import { readFeed } from './read-feed'

const port = parentPort!
const tell = (message: FromImportWorker) => port.postMessage(message)
let remembered: { path: string, capture: Capture } | undefined

function captureAt(path: string): Capture {
  if (remembered?.path !== path) remembered = { path, capture: readHar(readFileSync(path, 'utf8')) }
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
}

port.on('message', (message: ToImportWorker) => {
  void Promise.resolve().then(() => (handlers[message.kind] as (m: ToImportWorker) => unknown)(message)).then(
    result => tell({ kind: 'answer', id: message.id, result }),
    (error: Error & { remedy?: string }) => tell({ kind: 'trouble', id: message.id, sentence: error.message, remedy: error.remedy }),
  )
})
