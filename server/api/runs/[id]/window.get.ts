import { getQuery } from 'h3'
import { answers, numberParam } from '../../../answer'
import { coordinator } from '../../../../control/meeting-place'

export default answers((event) => {
  const { from, to } = getQuery(event)
  return coordinator().runs.window(numberParam(event, 'id'), Number(from), Number(to))
})
