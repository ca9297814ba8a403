import { getQuery } from 'h3'
import { answers, textParam } from '../../answer'
import { coordinator } from '../../../control/meeting-place'

export default answers((event) => {
  const version = getQuery(event).version
  return coordinator().journeys.view(textParam(event, 'id'), version === undefined ? undefined : Number(version))
})
