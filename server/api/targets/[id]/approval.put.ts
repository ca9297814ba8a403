import { SET_APPROVAL, type SetApproval } from '../../../../api/requests'
import { answersTo, textParam } from '../../../answer'
import { coordinator } from '../../../../control/meeting-place'

export default answersTo<SetApproval, unknown>(SET_APPROVAL, ({ approval }, event) =>
  coordinator().library.setApproval(textParam(event, 'id'), approval),
)
