import { answers, numberParam } from '../../../answer'
import { coordinator } from '../../../../control/meeting-place'

export default answers(event => coordinator().again(numberParam(event, 'id')))
