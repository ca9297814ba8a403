import { NEW_PLAN, type NewPlan } from '../../../api/requests'
import { answersTo } from '../../answer'
import { coordinator } from '../../../control/meeting-place'

export default answersTo<NewPlan, unknown>(NEW_PLAN, body =>
  'plan' in body && body.plan
    ? coordinator().plans.keep(body.plan)
    : coordinator().plans.create(body.name ?? '', body.question ?? '', body.targetId ?? ''),
)
