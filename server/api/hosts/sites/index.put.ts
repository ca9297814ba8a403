import { SAVE_SITE, type SaveSite } from '../../../../api/requests'
import { answersTo } from '../../../answer'
import { coordinator } from '../../../../control/meeting-place'

export default answersTo<SaveSite, unknown>(SAVE_SITE, ({ site }) =>
  coordinator().hosts.saveSite(site, coordinator().hostsInUse()),
)
