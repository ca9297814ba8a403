import { MARK, type Mark } from '../../../../api/requests'
import { answersTo, numberParam } from '../../../answer'
import { coordinator } from '../../../../control/meeting-place'

export default answersTo<Mark, { done: true }>(MARK, ({ text }, event) => {
  coordinator().runs.mark(numberParam(event, 'id'), text)
  return { done: true }
})
