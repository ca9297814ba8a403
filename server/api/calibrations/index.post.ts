import { CALIBRATE, type CalibrationWish } from '../../../api/requests'
import { answersTo } from '../../answer'
import { coordinator } from '../../../control/meeting-place'

export default answersTo<CalibrationWish, { id: number }>(CALIBRATE, async wish => ({
  id: await coordinator().calibrations.begin(wish),
}))
