import { REASON, type Reason } from '../../../../api/requests'
import { answersTo, numberParam } from '../../../answer'
import { coordinator } from '../../../../control/meeting-place'

export default answersTo<Reason, unknown>(REASON, (_, event) => coordinator().repeat(numberParam(event, 'id')))
