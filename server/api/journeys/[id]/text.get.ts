import { setHeader } from 'h3'
import { printJourney } from '../../../../core/formats/journey-text'
import { answers, textParam } from '../../../answer'
import { coordinator } from '../../../../control/meeting-place'

export default answers((event) => {
  const { journey } = coordinator().library.journey(textParam(event, 'id'))
  setHeader(event, 'content-type', 'application/yaml; charset=utf-8')
  setHeader(event, 'content-disposition', `attachment; filename="${journey.id}.journey.yaml"`)
  return printJourney(journey)
})
