import { SAVE_JOURNEY, type SaveJourney } from '../../../api/requests'
import { answersTo, textParam } from '../../answer'
import { coordinator } from '../../../control/meeting-place'

export default answersTo<SaveJourney, unknown>(SAVE_JOURNEY, ({ journey, onVersion }, event) =>
  coordinator().library.saveJourney({ ...journey, id: textParam(event, 'id') }, onVersion),
)
