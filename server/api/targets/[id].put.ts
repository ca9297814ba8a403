import { SAVE_TARGET, type SaveTarget } from '../../../api/requests'
import { answersTo, textParam } from '../../answer'
import { coordinator } from '../../../control/meeting-place'

export default answersTo<SaveTarget, unknown>(SAVE_TARGET, ({ target, secrets }, event) =>
  coordinator().library.saveTarget({ ...target, id: textParam(event, 'id') }, secrets),
)
