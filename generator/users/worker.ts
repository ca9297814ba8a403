/** A worker thread of a generator: carries the load, so that the link on the main thread always answers. */
import { parentPort, workerData } from 'node:worker_threads'
import { HealthReader } from './health'
import { Load } from './load'
import { rehearse } from './rehearse'
import { warmUp } from './warm-up'
import { hrNow, type FromWorker, type ToWorker, type WorkerStart } from './worker-messages'

export function runWorker(): void {
  const port = parentPort!
  const { worker, incarnation, host } = workerData as WorkerStart
  const health = new HealthReader(host)
  const tell = (message: FromWorker, transfer: ArrayBuffer[] = []) => port.postMessage(message, transfer)
  let prepared: Extract<ToWorker, { kind: 'prepare' }> | undefined
  let load: Load | undefined
  let warm = false

  const handlers: { [K in ToWorker['kind']]: (message: Extract<ToWorker, { kind: K }>) => void | Promise<void> } = {
    async rehearse(message) {
      tell({ kind: 'rehearsed', steps: await rehearse(message.document, message.runId) })
    },
    async prepare(message) {
      prepared = message
      if (!warm) await warmUp(health)
      warm = true
      tell({ kind: 'prepared' })
    },
    go({ startAtHr }) {
      if (!prepared) return
      load = new Load({
        ...prepared, worker, incarnation, health,
        onFrame: ({ bytes, sequence }) => tell({ kind: 'frame', bytes, sequence }, [bytes.buffer as ArrayBuffer]),
        onFinished: () => {
          load = undefined
          tell({ kind: 'finished' })
        },
      }, startAtHr - hrNow() + performance.now())
      load.run()
    },
    drain() { load?.drain() },
    abort() { load?.abort() },
  }
  port.on('message', (message: ToWorker) => { void (handlers[message.kind] as (m: ToWorker) => void)(message) })
}
