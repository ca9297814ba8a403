import { TRY_JOURNEY, type TryJourney } from '../../../api/requests'
import { answersTo } from '../../answer'
import { coordinator } from '../../../control/meeting-place'

export default answersTo<TryJourney, unknown>(TRY_JOURNEY, ({ journey, targetId, machineId }) =>
  coordinator().journeys.try(journey, targetId, machineId),
)
