import { setResponseHeader } from 'h3'
import { answers } from '../../answer'
import { coordinator } from '../../../control/meeting-place'

export default answers((event) => {
  setResponseHeader(event, 'content-disposition', 'attachment; filename="capacities.json"')
  return { capacities: coordinator().capacities.all() }
})
