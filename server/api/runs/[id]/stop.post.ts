import { REASON, type Reason } from '../../../../api/requests'
import { answersTo, numberParam } from '../../../answer'
import { coordinator } from '../../../../control/meeting-place'

export default answersTo<Reason, { done: true }>(REASON, ({ reason }, event) => {
  coordinator().runs.stop(numberParam(event, 'id'), reason)
  return { done: true }
})
