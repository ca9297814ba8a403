import { INVITE_MACHINES, type InviteMachines } from '../../../api/requests'
import { answersTo } from '../../answer'
import { coordinator } from '../../../control/meeting-place'

export default answersTo<InviteMachines, unknown>(INVITE_MACHINES, wish => coordinator().invitations.invite(wish))
