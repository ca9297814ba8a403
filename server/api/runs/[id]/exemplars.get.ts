import { getQuery } from 'h3'
import { answers, numberParam, numberQuery } from '../../../answer'
import { coordinator } from '../../../../control/meeting-place'

export default answers((event) => {
  const query = getQuery(event)
  const number = (name: string) => numberQuery(event, name)
  const text = (name: string) => (query[name] ? { [name]: String(query[name]) } : {})
  return coordinator().runs.exemplars(numberParam(event, 'id'), {
    most: Math.min(200, Math.max(1, Math.floor(number('most').most ?? 50))),
    ...text('step'),
    ...text('journeyId'),
    ...text('failure'),
    ...number('fromMs'),
    ...number('toMs'),
    ...number('fromS'),
    ...number('toS'),
  })
})
