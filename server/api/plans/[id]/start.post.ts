import { REASON, type Reason } from '../../../../api/requests'
import { answersTo, textParam } from '../../../answer'
import { coordinator } from '../../../../control/meeting-place'

export default answersTo<Reason, unknown>(REASON, (_, event) => coordinator().start(textParam(event, 'id')))
