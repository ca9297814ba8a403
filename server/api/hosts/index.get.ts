import { answers } from '../../answer'
import { coordinator } from '../../../control/meeting-place'

export default answers(() => ({ sites: coordinator().hosts.views(), keys: coordinator().hosts.keys() }))
