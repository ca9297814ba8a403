/** A house whose provider has room for hundreds of simulated machines, which speak the real protocol. */
import { fileURLToPath } from 'node:url'

export const HOUSE_OF_MANY = {
  history: false,
  cloud: {
    regions: [{ name: 'reyk', quota: 2000, bootS: 1.5 }],
    simulator: fileURLToPath(new URL('../../dist/simfleet.mjs', import.meta.url)),
    rateLimit: { perSecond: 20, atOnce: 40 },
  },
}
