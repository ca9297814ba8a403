/**
 * The generator program: one file, started on each machine with the controller's address and a one-time token in the environment
 * (VORNAK_CONTROLLER, VORNAK_TOKEN), never in its arguments, which other processes can read.
 */
import { fileURLToPath } from 'node:url'
import { isMainThread } from 'node:worker_threads'
import { runAgent } from './agent'
import { runTryAlone } from './try-alone'
import { runWorker } from './users/worker'

function main(): void {
  if (!isMainThread) return runWorker()
  if (process.env.VORNAK_TRY) return runTryAlone()
  const { VORNAK_CONTROLLER: controller, VORNAK_TOKEN: token } = process.env
  if (!controller || !token || !/^https?:\/\//.test(controller)) {
    console.error('Set VORNAK_CONTROLLER to the controller’s address (http://host:port) and VORNAK_TOKEN to the one-time token the controller gave for this machine.')
    process.exit(64)
  }
  // The token must not be passed on to anything this process starts.
  delete process.env.VORNAK_TOKEN
  runAgent({ controller, token, program: fileURLToPath(import.meta.url), exit: code => process.exit(code), say: line => console.error(line) })
}

main()
