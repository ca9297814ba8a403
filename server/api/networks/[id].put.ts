import { SAVE_NETWORK, type SaveNetwork } from '../../../api/requests'
import { answersTo, textParam } from '../../answer'
import { coordinator } from '../../../control/meeting-place'

export default answersTo<SaveNetwork, unknown>(SAVE_NETWORK, ({ profile }, event) =>
  coordinator().library.saveNetwork({ ...profile, id: textParam(event, 'id') }),
)
