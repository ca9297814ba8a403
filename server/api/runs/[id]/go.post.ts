import { NOTHING, type Nothing } from '../../../../api/requests'
import { answersTo, numberParam } from '../../../answer'
import { coordinator } from '../../../../control/meeting-place'

export default answersTo<Nothing, { done: true }>(NOTHING, (_, event) => {
  coordinator().runs.goWith(numberParam(event, 'id'))
  return { done: true }
})
