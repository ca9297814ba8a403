import { SAVE_TARGET, type SaveTarget } from '../../../api/requests'
import { answersTo } from '../../answer'
import { coordinator } from '../../../control/meeting-place'

export default answersTo<SaveTarget, unknown>(SAVE_TARGET, ({ target, secrets }) => {
  const { library } = coordinator()
  return library.saveTarget(
    { ...target, id: library.freeId(target.name, id => library.target(id) !== undefined) },
    secrets,
  )
})
