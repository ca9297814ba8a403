import { HOST_REFS, type HostRefs } from '../../../api/requests'
import { answersTo } from '../../answer'
import { coordinator } from '../../../control/meeting-place'

export default answersTo<HostRefs, { done: true }>(HOST_REFS, ({ hosts }) => {
  for (const ref of hosts) coordinator().hosts.acceptKey(ref)
  return { done: true }
})
