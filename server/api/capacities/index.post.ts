import { TAKE_CAPACITIES, type TakeCapacities } from '../../../api/requests'
import { answersTo } from '../../answer'
import { coordinator } from '../../../control/meeting-place'

export default answersTo<TakeCapacities, { taken: number }>(TAKE_CAPACITIES, ({ capacities }) => ({
  taken: coordinator().capacities.take(capacities),
}))
