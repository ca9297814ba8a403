/**
 * Many simulated generators in one process, told by lines of JSON on standard input: `{"start": {"id", "name",
 * "environment"}}` and `{"end": "id"}`. They speak the real protocol over real sockets and send no load. For trying
 * what a fleet of hundreds does to the controller.
 */
import { createInterface } from 'node:readline'
import { SimGenerator } from './sim-generator'
import { World } from './world'
import { present } from '../core/values/present'

interface Start {
  id: string
  name: string
  environment: Record<string, string>
}

/** How often the world moves on, ms. */
const MOVE_MS = 20
const now = () => performance.timeOrigin + performance.now()
const world = new World({ workers: 64, mostWaiting: 100_000, serviceMs: () => 20, sigma: 0.4, seed: 11 })
const generators = new Map<string, SimGenerator>()

setInterval(() => world.advance(now()), MOVE_MS)
createInterface({ input: process.stdin })
  .on('line', (line) => {
    // The program that started this one writes these.
    const { start, end } = JSON.parse(line) as { start?: Start, end?: string }
    if (start)
      generators.set(
        start.id,
        new SimGenerator({
          controller: present(start.environment.VORNAK_CONTROLLER, 'the controller'),
          ...(start.environment.VORNAK_PIN ? { pin: start.environment.VORNAK_PIN } : {}),
          token: present(start.environment.VORNAK_TOKEN, 'its token'),
          name: start.name,
          world,
          now,
          usersAtFullCpu: 240,
        }),
      )
    if (end !== undefined) {
      generators.get(end)?.close()
      generators.delete(end)
    }
  })
  .on('close', () => process.exit(0))
