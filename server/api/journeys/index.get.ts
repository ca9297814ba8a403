import { answers } from '../../answer'
import { coordinator } from '../../../control/meeting-place'

export default answers(() => coordinator().journeys.lines())
