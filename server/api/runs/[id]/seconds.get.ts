import { answers, numberParam } from '../../../answer'
import { coordinator } from '../../../../control/meeting-place'

export default answers(event => coordinator().runs.seconds(numberParam(event, 'id')))
