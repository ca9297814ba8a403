import { setResponseHeader } from 'h3'
import { answers } from '../../answer'
import { coordinator } from '../../../control/meeting-place'

export default answers((event) => {
  setResponseHeader(event, 'content-type', 'text/csv; charset=utf-8')
  setResponseHeader(event, 'content-disposition', 'attachment; filename="machines.csv"')
  return coordinator().desk.csv()
})
