/** A worker thread of a generator: carries the load, so that the link on the main thread always answers. */
import { parentPort, workerData } from 'node:worker_threads'
import { readProxy } from '../exchange/proxy'
import type { DealerPost } from '../journey/feed-dealer'
import type { FetchedSupplies } from '../link/supplies'
import { HealthReader } from './health'
import { Load, type LoadOptions, type Supplies } from './load'
import { tryJourneys } from './try-journeys'
import { warmUp } from './warm-up'
import { hrNow, type FromWorker, type ToWorker, type WorkerStart } from './worker-messages'
import { messageOf } from '../../core/values/thrown'

// eslint-disable-next-line max-lines-per-function -- a closure: its functions share what it keeps
export function runWorker(): void {
  // This program is a worker of another.
  const port = parentPort!
  // The thread that starts this worker gives it that.
  const { worker, incarnation, host, proxy: proxyAddress } = workerData as WorkerStart
  const proxy = proxyAddress === undefined ? undefined : readProxy(proxyAddress)
  const health = new HealthReader(host)
  const tell = (message: FromWorker, transfer: ArrayBuffer[] = []) => port.postMessage(message, transfer)
  let prepared: LoadOptions | undefined
  let load: Load | undefined
  let warm = false

  const handlers: { [K in ToWorker['kind']]: (message: Extract<ToWorker, { kind: K }>) => void | Promise<void> } = {
    async try({ id, runId, document, supplies }) {
      tell({
        kind: 'tried',
        id,
        ...(await tryJourneys(
          document,
          runId,
          suppliesOf(supplies, { generator: 0, generators: 1, worker: 0, workers: 1 }),
          health,
          proxy,
        )),
      })
    },
    async prepare({ runId, document, slice, lastsMs, leaveMs, supplies, post }) {
      prepared = {
        runId,
        document,
        slice,
        leaveMs,
        lastsMs,
        supplies: suppliesOf(supplies, post),
        worker,
        incarnation,
        health,
        ...(proxy ? { proxy } : {}),
        // It was just made, and is not shared.
        onFrame: ({ bytes, sequence }) => tell({ kind: 'frame', bytes, sequence }, [bytes.buffer as ArrayBuffer]),
        onExemplar: record => tell({ kind: 'exemplar', record }),
        onPass: record => tell({ kind: 'pass', record }),
        onFinished: (dropped) => {
          load = undefined
          tell({ kind: 'finished', dropped })
        },
      }
      try {
        // Compiled once to see that it can be, before anybody waits for the start.
        new Load(prepared, performance.now())
        if (!warm) await warmUp(health)
        warm = true
        tell({ kind: 'prepared' })
      }
      catch (error) {
        tell({ kind: 'unprepared', problem: messageOf(error) })
      }
    },
    go({ startAtHr }) {
      if (!prepared) return
      load = new Load(prepared, startAtHr - hrNow() + performance.now())
      load.run()
    },
    rate({ group, betweenS, mostRate }) {
      load?.holdRate(group, betweenS, mostRate)
    },
    steer({ group, users }) {
      load?.steer(group, users)
    },
    takeOver({ slice }) {
      load?.takeOver(slice)
    },
    drain() {
      load?.drain()
    },
    abort() {
      load?.abort()
    },
  }
  port.on('message', (message: ToWorker) => {
    // A handler and its message are of the same kind, which the compiler does not see.
    void (handlers[message.kind] as (m: ToWorker) => void)(message)
  })
}

function suppliesOf({ secrets, files, feeds }: FetchedSupplies, post: DealerPost): Supplies {
  return { secrets, files: new Map(files), feeds: new Map(feeds), post }
}
