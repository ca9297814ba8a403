import { getQuery } from 'h3'
import { answers, textParam } from '../../answer'
import { versionFrom } from '../../../control/library/plans'
import { coordinator } from '../../../control/meeting-place'

export default answers(event =>
  coordinator().journeys.view(textParam(event, 'id'), versionFrom(getQuery(event).version)),
)
