import { SAVE_PLAN, type SavePlan } from '../../../api/requests'
import { answersTo, textParam } from '../../answer'
import { coordinator } from '../../../control/meeting-place'

export default answersTo<SavePlan, unknown>(SAVE_PLAN, ({ plan, onVersion }, event) =>
  coordinator().plans.save(textParam(event, 'id'), plan, onVersion),
)
