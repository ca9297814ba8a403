import { IMPORT_OPENAPI, type ImportOpenApi } from '../../../api/requests'
import { answersTo } from '../../answer'
import { coordinator } from '../../../control/meeting-place'

export default answersTo<ImportOpenApi, unknown>(IMPORT_OPENAPI, ({ file, ids, baseUrl }) =>
  coordinator().journeys.importOpenApi(file, ids, baseUrl),
)
