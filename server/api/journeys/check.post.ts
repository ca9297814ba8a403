import { CHECK_JOURNEY, type CheckJourney } from '../../../api/requests'
import { answersTo } from '../../answer'
import { coordinator } from '../../../control/meeting-place'

export default answersTo<CheckJourney, unknown>(CHECK_JOURNEY, ({ journey, targetId }) =>
  coordinator().library.problemsOf(
    journey,
    targetId === undefined ? undefined : coordinator().library.target(targetId),
  ),
)
