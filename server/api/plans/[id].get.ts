import { getQuery } from 'h3'
import { versionFrom } from '../../../control/library/plans'
import { answers, textParam } from '../../answer'
import { coordinator } from '../../../control/meeting-place'

export default answers(event => coordinator().plans.view(textParam(event, 'id'), versionFrom(getQuery(event).version)))
