import { getQuery } from 'h3'
import { answers, numberParam } from '../../../answer'
import { coordinator } from '../../../../control/meeting-place'

export default answers((event) => {
  const query = getQuery(event)
  const number = (name: string) => query[name] === undefined || query[name] === '' ? {} : { [name]: Number(query[name]) }
  return coordinator().runs.exemplars(numberParam(event, 'id'), {
    most: Math.min(200, Number(query.most ?? 50)), ...(query.step ? { step: String(query.step) } : {}), ...(query.failure ? { failure: String(query.failure) } : {}),
    ...number('fromMs'), ...number('toMs'), ...number('fromS'), ...number('toS'),
  })
})
