import { ARCHIVE_PLAN, type ArchivePlan } from '../../../../api/requests'
import { answersTo, textParam } from '../../../answer'
import { coordinator } from '../../../../control/meeting-place'

export default answersTo<ArchivePlan, unknown>(ARCHIVE_PLAN, ({ archived }, event) => {
  coordinator().plans.setArchived(textParam(event, 'id'), archived)
  return {}
})
