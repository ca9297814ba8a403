/** Every operation of the API with what carries it out. */
import { OPEN_API } from '../../api/openapi'
import { coordinator } from '../../control/meeting-place'
import type { Handlers } from '../handler'
import { capacities } from './capacities'
import { elsewhere } from './elsewhere'
import { fleet } from './fleet'
import { journeys } from './journeys'
import { library } from './library'
import { ownFigures } from './own-figures'
import { people } from './people'
import { plans } from './plans'
import { reports } from './reports'
import { runs } from './runs'
import { sending } from './sending'
import { sharing } from './sharing'
import { ways } from './ways'

export const HANDLERS: Handlers = {
  board: () => coordinator().board(),
  meter: () => coordinator().meter(),
  openApi: () => ({ content: JSON.stringify(OPEN_API) }),
  ...plans,
  ...journeys,
  ...library,
  ...ownFigures,
  ...elsewhere,
  ...fleet,
  ...ways,
  ...capacities,
  ...runs,
  ...reports,
  ...sending,
  ...sharing,
  ...people,
}
