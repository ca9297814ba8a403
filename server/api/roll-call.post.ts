import { CALL_ROLL, type CallRoll } from '../../api/requests'
import { answersTo } from '../answer'
import { coordinator } from '../../control/meeting-place'

export default answersTo<CallRoll, unknown>(CALL_ROLL, ({ machines, targetId }) => ({
  asked: coordinator().desk.callRoll(machines, targetId),
}))
