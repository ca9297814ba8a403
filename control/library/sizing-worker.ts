/** Worker thread: answers how large a plan's fleet must be. */
import { sizePlan } from '../../core/fleet/sizing'
import type { FromSizingWorker, ToSizingWorker } from './sizer'
import { port } from '../parent-port'

port.on('message', ({ id, plan, around }: ToSizingWorker) =>
  port.postMessage({ id, sizing: sizePlan(plan, around) } satisfies FromSizingWorker),
)
