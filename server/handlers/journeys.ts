import { coordinator } from '../../control/meeting-place'
import type { Handlers } from '../handler'
import { approvalBy } from './approval-by'
import { done } from './done'

type JourneyOperation =
  | 'journeys'
  | 'journey'
  | 'newJourney'
  | 'saveJourney'
  | 'checkJourney'
  | 'readJourney'
  | 'tryJourney'
  | 'journeyText'
  | 'removeJourney'
  | 'reviewHar'
  | 'importHar'
  | 'importOpenApi'
  | 'importAddresses'

export const journeys: Handlers<JourneyOperation> = {
  journeys: () => coordinator().journeys.lines(),
  journey: ({ journey, version }) => coordinator().journeys.view(journey, version),
  newJourney: (_, { journey }) => coordinator().library.newJourney(journey),
  saveJourney: ({ journey: id }, { journey, onVersion }) =>
    coordinator().library.saveJourney({ ...journey, id }, onVersion),
  checkJourney: (_, { journey, targetId }) => {
    const { library } = coordinator()
    return library.problemsOf(journey, targetId === undefined ? undefined : library.target(targetId))
  },
  readJourney: (_, { text }) => coordinator().imports.journeyText(text),
  tryJourney: (_, { journey, targetId, machineId }) => coordinator().journeys.try(journey, targetId, machineId),
  journeyText: ({ journey }) => ({
    content: coordinator().library.journeyText(journey),
    name: `${journey}.journey.yaml`,
  }),
  removeJourney: ({ journey }) => done(coordinator().library.removeJourney(journey)),
  reviewHar: (_, { file, choices }) => coordinator().imports.reviewHar(file, choices),
  importHar: (_, { file, choices }) => coordinator().journeys.importHar(file, choices),
  importOpenApi: (_, { file, ids, baseUrl }) => coordinator().journeys.importOpenApi(file, ids, baseUrl),
  importAddresses: (_, { text, ...ask }, { caller }) => {
    approvalBy(caller, undefined, ask.approval)
    return coordinator().journeys.quickStart(text, ask)
  },
}
