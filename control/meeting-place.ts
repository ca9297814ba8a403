/**
 * Where server routes find the coordinator. It lives in main/, the routes in Nuxt's own bundle of the same process, so
 * they meet at a symbol on the global object.
 */
import type { Coordinator } from './coordinator'

const PLACE = Symbol.for('vornak.coordinator')

export function provideCoordinator(coordinator: Coordinator): void {
  // The global object has no type for what others put on it.
  ;(globalThis as Record<symbol, unknown>)[PLACE] = coordinator
}

/** @throws Error when the routes are served without main/ */
export function coordinator(): Coordinator {
  // Only the function above puts anything there.
  const found = (globalThis as Record<symbol, unknown>)[PLACE] as Coordinator | undefined
  if (!found) throw new Error('The coordinator is not running: start Vornak with dist/main.mjs.')
  return found
}
