import { NOTHING, type Nothing } from '../../../../api/requests'
import { answersTo, textParam } from '../../../answer'
import { coordinator } from '../../../../control/meeting-place'

export default answersTo<Nothing, unknown>(NOTHING, (_, event) => {
  coordinator().library.removeNetwork(textParam(event, 'id'))
  return {}
})
