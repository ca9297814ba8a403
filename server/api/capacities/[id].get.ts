import { answers, textParam } from '../../answer'
import { coordinator } from '../../../control/meeting-place'

export default answers(event => coordinator().capacities.view(textParam(event, 'id')))
