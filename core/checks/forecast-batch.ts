/** What a batch of calibrations will take: time and money. */
import { costOf, priceOf } from '../offers/cost'
import type { MachineType } from '../offers/machine-type'

/** One takes about this long from asking for its machine to releasing it, s. Waiting for quiet seconds comes on top. */
const CALIBRATION_S = 240

/** What a batch takes: each type as often as there are journeys and networks. @param machines siblings at once */
export function forecastBatch(
  types: readonly MachineType[],
  perType: number,
  machines = 1,
): { minutes: number, cost: number } {
  return {
    minutes: Math.ceil((CALIBRATION_S / 60) * types.length * perType),
    cost: types.reduce((sum, t) => sum + costOf(priceOf(t, {}), CALIBRATION_S * 1000), 0) * perType * machines,
  }
}
