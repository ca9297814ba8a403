/** Health of the generators of a run, as what is said of its soundness needs it. */
import type { Health } from '../capacity/signals'

/**
 * Each generator's name, and its health by run second (holes where no frame came). A long run has more of it than fits
 * into memory: one generator is read after the other, each time it is gone through.
 */
export type HealthByGenerator = Iterable<[generator: string, seconds: readonly (Health | undefined)[]]>
