import { IMPORT_HAR, type ImportHar } from '../../../api/requests'
import { answersTo } from '../../answer'
import { coordinator } from '../../../control/meeting-place'

export default answersTo<ImportHar, unknown>(IMPORT_HAR, ({ file, choices }) =>
  coordinator().imports.reviewHar(file, choices),
)
