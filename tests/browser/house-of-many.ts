/** A house whose provider has room for hundreds of simulated machines, which speak the real protocol. */
import { fileURLToPath } from 'node:url'
// @ts-expect-error a plain script of the repository
import { openHouse } from '../../scripts/house.mjs'

export interface HouseOfMany {
  url: string
  cloud: string
  close(): Promise<void>
}

export function openHouseOfMany(): Promise<HouseOfMany> {
  return openHouse({
    history: false,
    cloud: {
      regions: [{ name: 'reyk', quota: 2000, bootS: 1.5 }],
      simulator: fileURLToPath(new URL('../../dist/simfleet.mjs', import.meta.url)),
      rateLimit: { perSecond: 20, atOnce: 40 },
    },
  }) as Promise<HouseOfMany>
}
