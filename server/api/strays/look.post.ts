import { NOTHING, type Nothing } from '../../../api/requests'
import { answersTo } from '../../answer'
import { coordinator } from '../../../control/meeting-place'

export default answersTo<Nothing, { done: true }>(NOTHING, async () => {
  await coordinator().desk.look()
  return { done: true }
})
