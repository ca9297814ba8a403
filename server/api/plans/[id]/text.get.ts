import { getQuery, setHeader } from 'h3'
import { answers, textParam } from '../../../answer'
import { versionFrom } from '../../../../control/library/plans'
import { coordinator } from '../../../../control/meeting-place'

export default answers((event) => {
  const id = textParam(event, 'id')
  const text = coordinator().plans.text(id, versionFrom(getQuery(event).version))
  setHeader(event, 'content-type', 'application/yaml; charset=utf-8')
  setHeader(event, 'content-disposition', `attachment; filename="${id}.plan.yaml"`)
  return text
})
