import { NEW_JOURNEY, type NewJourney } from '../../../api/requests'
import { answersTo } from '../../answer'
import { coordinator } from '../../../control/meeting-place'

export default answersTo<NewJourney, unknown>(NEW_JOURNEY, ({ journey }) => {
  const { library } = coordinator()
  return library.saveJourney(
    { ...journey, id: library.freeId(journey.name, id => library.store.journey(id) !== undefined) },
    0,
  )
})
