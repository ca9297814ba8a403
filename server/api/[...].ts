import { ControlError } from '../../control/errors'
import { answers } from '../answer'

/** No page stands here: whoever asks for what the API does not have is told so. */
export default answers((event) => {
  throw new ControlError(
    'no-such-address',
    404,
    `The API has no ${event.method} ${event.path.split('?')[0]!.slice(0, 200)}.`,
    'See the list of addresses in the documentation.',
  )
})
