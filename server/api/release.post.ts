import { REASON, type Reason } from '../../api/requests'
import { answersTo } from '../answer'
import { coordinator } from '../../control/meeting-place'

export default answersTo<Reason, { asked: number }>(REASON, async () => ({ asked: await coordinator().releaseIdle() }))
