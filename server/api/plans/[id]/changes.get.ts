import { getQuery } from 'h3'
import { versionFrom } from '../../../../control/library/plans'
import { answers, textParam } from '../../../answer'
import { coordinator } from '../../../../control/meeting-place'

export default answers(event =>
  coordinator().plans.changes(
    textParam(event, 'id'),
    versionFrom(getQuery(event).from) ?? 1,
    versionFrom(getQuery(event).to) ?? 1,
  ),
)
