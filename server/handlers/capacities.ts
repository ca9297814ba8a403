import { coordinator } from '../../control/meeting-place'
import type { Handlers } from '../handler'
import { done } from './done'

type CapacityOperation =
  | 'capacities'
  | 'capacity'
  | 'capacitiesFile'
  | 'takeCapacities'
  | 'setCapacity'
  | 'refineCapacity'
  | 'dropCapacity'
  | 'calibrate'
  | 'calibration'
  | 'stopCalibration'

const capacitiesOf = () => coordinator().capacities
const calibrations = () => coordinator().calibrations

export const capacities: Handlers<CapacityOperation> = {
  capacities: () => calibrations().view(),
  capacity: ({ capacity }) => capacitiesOf().view(capacity),
  capacitiesFile: () => ({ content: JSON.stringify({ capacities: capacitiesOf().all() }), name: 'capacities.json' }),
  takeCapacities: (_, { capacities: given }) => ({ taken: capacitiesOf().take(given) }),
  setCapacity: (_, capacity) => capacitiesOf().setByHand(capacity),
  refineCapacity: (_, { capacityId, users, runId }) => capacitiesOf().refine(capacityId, users, runId),
  dropCapacity: ({ capacity }) => done(capacitiesOf().drop(capacity)),
  calibrate: async (_, wish) => ({ id: await calibrations().begin(wish) }),
  calibration: ({ calibration }) => calibrations().batch(calibration),
  stopCalibration: ({ calibration }) => done(calibrations().stop(calibration)),
}
