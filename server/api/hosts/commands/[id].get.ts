import { setResponseHeader } from 'h3'
import { answers, numberParam } from '../../../answer'
import { coordinator } from '../../../../control/meeting-place'

export default answers((event) => {
  const id = numberParam(event, 'id')
  setResponseHeader(event, 'content-type', 'text/plain; charset=utf-8')
  setResponseHeader(event, 'content-disposition', `attachment; filename="command-${id}.txt"`)
  return coordinator().hosts.commandText(id)
})
