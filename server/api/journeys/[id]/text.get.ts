import { setHeader } from 'h3'
import { answers, textParam } from '../../../answer'
import { coordinator } from '../../../../control/meeting-place'

export default answers((event) => {
  const id = textParam(event, 'id')
  const text = coordinator().library.journeyText(id)
  setHeader(event, 'content-type', 'application/yaml; charset=utf-8')
  setHeader(event, 'content-disposition', `attachment; filename="${id}.journey.yaml"`)
  return text
})
