import { setResponseHeader } from 'h3'
import { answers, numberParam } from '../../../answer'
import { coordinator } from '../../../../control/meeting-place'

export default answers(async (event) => {
  const id = numberParam(event, 'id')
  const log = await coordinator().runs.histogramLog(id)
  setResponseHeader(event, 'content-type', 'text/plain; charset=utf-8')
  setResponseHeader(event, 'content-disposition', `attachment; filename="run-${id}.hlog"`)
  return log
})
