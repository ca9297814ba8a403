/** Worker thread: answers how large a plan's fleet must be. */
import { parentPort } from 'node:worker_threads'
import { sizePlan } from '../../core/fleet/sizing'
import type { FromSizingWorker, ToSizingWorker } from './sizer'

parentPort!.on('message', ({ id, plan, around }: ToSizingWorker) =>
  parentPort!.postMessage({ id, sizing: sizePlan(plan, around) } satisfies FromSizingWorker),
)
