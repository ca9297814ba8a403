import { SAVE_RAILS, type SaveRails } from '../../api/requests'
import { answersTo } from '../answer'
import { coordinator } from '../../control/meeting-place'

export default answersTo<SaveRails, { done: true }>(SAVE_RAILS, ({ rails }) => {
  coordinator().desk.rails = rails
  return { done: true }
})
