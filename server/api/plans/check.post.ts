import { CHECK_PLAN, type CheckPlan } from '../../../api/requests'
import { answersTo } from '../../answer'
import { coordinator } from '../../../control/meeting-place'

export default answersTo<CheckPlan, unknown>(CHECK_PLAN, ({ plan }) => coordinator().plans.check(plan))
