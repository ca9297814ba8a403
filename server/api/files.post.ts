import { getQuery } from 'h3'
import { answers } from '../answer'
import { coordinator } from '../../control/meeting-place'

export default answers(event =>
  coordinator().library.files.take(event.node.req, String(getQuery(event).name ?? 'upload')),
)
