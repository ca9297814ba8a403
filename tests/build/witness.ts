/**
 * A process that does nothing but look at the clock, as often as the controller looks: what it waits for its turn is
 * the computer's doing, and nobody's beside it.
 */
import { spawn } from 'node:child_process'

const WINDOW_MS = 10_000
const LOOK_MS = 10
const PROGRAM = `
  const delay = require('node:perf_hooks').monitorEventLoopDelay({ resolution: ${LOOK_MS} })
  delay.enable()
  setInterval(() => {
    process.send(Math.max(0, delay.percentile(99) / 1e6 - ${LOOK_MS}))
    delay.reset()
  }, ${WINDOW_MS})
  process.on('disconnect', () => process.exit())`

export interface Witness {
  /** The largest 99th percentile of its event-loop delay in any ten seconds so far, ms. */
  worstDelayP99Ms(): number
  close(): void
}

export function callWitness(): Witness {
  const child = spawn(process.execPath, ['-e', PROGRAM], { stdio: ['ignore', 'ignore', 'inherit', 'ipc'] })
  let worst = 0
  child.on('message', (delayMs) => {
    worst = Math.max(worst, Number(delayMs))
  })
  return { worstDelayP99Ms: () => worst, close: () => child.disconnect() }
}
