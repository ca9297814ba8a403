import { SET_CAPACITY, type CapacitySetByHand } from '../../../api/requests'
import { answersTo } from '../../answer'
import { coordinator } from '../../../control/meeting-place'

export default answersTo<CapacitySetByHand, unknown>(SET_CAPACITY, of => coordinator().capacities.setByHand(of))
