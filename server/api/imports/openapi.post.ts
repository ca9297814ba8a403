import { IMPORT_OPENAPI, type ImportOpenApi } from '../../../api/requests'
import { answersTo } from '../../answer'
import { coordinator } from '../../../control/meeting-place'

export default answersTo<ImportOpenApi, unknown>(IMPORT_OPENAPI, ({ text, ids }) => coordinator().journeys.importOpenApi(text, ids))
