import { SAVE_ACCOUNT, type SaveAccount } from '../../../api/requests'
import { answersTo } from '../../answer'
import { coordinator } from '../../../control/meeting-place'

export default answersTo<SaveAccount, { done: true }>(SAVE_ACCOUNT, async ({ account, key }) => {
  await coordinator().ways.saveAccount(account, key)
  return { done: true }
})
