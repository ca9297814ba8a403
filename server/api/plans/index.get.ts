import { getQuery } from 'h3'
import { answers } from '../../answer'
import { coordinator } from '../../../control/meeting-place'

export default answers(event => coordinator().plans.list(getQuery(event).archived === '1'))
