import { REFINE_CAPACITY, type RefineCapacity } from '../../../api/requests'
import { answersTo } from '../../answer'
import { coordinator } from '../../../control/meeting-place'

export default answersTo<RefineCapacity, unknown>(REFINE_CAPACITY, ({ capacityId, users, runId }) =>
  coordinator().capacities.refine(capacityId, users, runId),
)
