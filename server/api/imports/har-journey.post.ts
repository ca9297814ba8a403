import { IMPORT_HAR_JOURNEY, type ImportHarJourney } from '../../../api/requests'
import { answersTo } from '../../answer'
import { coordinator } from '../../../control/meeting-place'

export default answersTo<ImportHarJourney, unknown>(IMPORT_HAR_JOURNEY, ({ file, choices }) =>
  coordinator().journeys.importHar(file, choices),
)
