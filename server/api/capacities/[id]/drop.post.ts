import { NOTHING, type Nothing } from '../../../../api/requests'
import { answersTo, textParam } from '../../../answer'
import { coordinator } from '../../../../control/meeting-place'

export default answersTo<Nothing, { done: true }>(NOTHING, (_, event) => {
  coordinator().capacities.drop(textParam(event, 'id'))
  return { done: true }
})
