import { SAVE_KEY, type SaveKey } from '../../../../api/requests'
import { answersTo } from '../../../answer'
import { coordinator } from '../../../../control/meeting-place'

export default answersTo<SaveKey, unknown>(SAVE_KEY, ({ name, key, passphrase = '' }) =>
  coordinator().hosts.saveKey(name, key, passphrase),
)
