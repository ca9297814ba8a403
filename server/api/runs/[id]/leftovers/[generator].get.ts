import { getQuery, setHeader } from 'h3'
import { answers, numberParam } from '../../../../answer'
import { coordinator } from '../../../../../control/meeting-place'

export default answers(async (event) => {
  const { group, name } = getQuery(event)
  const content = await coordinator().runs.leftover(
    numberParam(event, 'id'),
    numberParam(event, 'generator'),
    String(group),
    String(name),
  )
  setHeader(event, 'content-type', 'application/octet-stream')
  setHeader(
    event,
    'content-disposition',
    `attachment; filename="${encodeURIComponent(String(name).split('/').pop() ?? 'file')}"`,
  )
  return Buffer.from(content)
})
