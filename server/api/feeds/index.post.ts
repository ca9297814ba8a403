import { NEW_FEED, type NewFeed } from '../../../api/requests'
import { answersTo } from '../../answer'
import { coordinator } from '../../../control/meeting-place'

export default answersTo<NewFeed, unknown>(NEW_FEED, ({ file, name, ...reading }) =>
  coordinator().imports.feed(file, name, reading),
)
