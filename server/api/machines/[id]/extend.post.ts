import { EXTEND_LEASE, type ExtendLease } from '../../../../api/requests'
import { answersTo, textParam } from '../../../answer'
import { coordinator } from '../../../../control/meeting-place'

export default answersTo<ExtendLease, { done: true }>(EXTEND_LEASE, async ({ minutes }, event) => {
  await coordinator().desk.extend(textParam(event, 'id'), minutes)
  return { done: true }
})
