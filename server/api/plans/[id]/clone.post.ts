import { CLONE_PLAN, type ClonePlan } from '../../../../api/requests'
import { answersTo, textParam } from '../../../answer'
import { coordinator } from '../../../../control/meeting-place'

export default answersTo<ClonePlan, unknown>(CLONE_PLAN, ({ version }, event) =>
  coordinator().plans.clone(textParam(event, 'id'), version),
)
