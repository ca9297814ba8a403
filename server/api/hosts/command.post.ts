import { HOST_COMMAND, type HostCommandWish } from '../../../api/requests'
import { answersTo } from '../../answer'
import { coordinator } from '../../../control/meeting-place'

export default answersTo<HostCommandWish, unknown>(HOST_COMMAND, ({ hosts, command }) =>
  coordinator().hosts.command(hosts, command),
)
