import { HOST_REFS, type HostRefs } from '../../../api/requests'
import { answersTo } from '../../answer'
import { coordinator } from '../../../control/meeting-place'

export default answersTo<HostRefs, unknown>(HOST_REFS, ({ hosts }) => coordinator().hosts.try(hosts))
