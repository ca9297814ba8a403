import { REASON, type Reason } from '../../../../api/requests'
import { answersTo, textParam } from '../../../answer'
import { coordinator } from '../../../../control/meeting-place'

export default answersTo<Reason, { done: true }>(REASON, async (_, event) => {
  await coordinator().desk.release(textParam(event, 'id'))
  return { done: true }
})
