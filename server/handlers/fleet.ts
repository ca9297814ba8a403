import { coordinator } from '../../control/meeting-place'
import type { Handlers } from '../handler'
import { done } from './done'

type FleetOperation =
  | 'fleet'
  | 'machinesFile'
  | 'machine'
  | 'extendLease'
  | 'releaseMachine'
  | 'releaseIdle'
  | 'lookForStrays'
  | 'releaseStray'
  | 'rollCall'
  | 'callRoll'
  | 'costs'
  | 'offers'
  | 'rails'
  | 'saveRails'

const desk = () => coordinator().desk

export const fleet: Handlers<FleetOperation> = {
  fleet: () => desk().view(),
  machinesFile: () => ({ content: desk().csv(), name: 'machines.csv' }),
  machine: ({ machine }) => desk().machine(machine),
  extendLease: ({ machine }, { minutes }) => done(desk().extend(machine, minutes)),
  releaseMachine: ({ machine }) => done(desk().release(machine)),
  releaseIdle: () => done(desk().releaseIdle()),
  lookForStrays: () => done(desk().look()),
  releaseStray: ({ provider, ref }) => done(desk().releaseStray(provider, ref)),
  rollCall: () => desk().rollCall(),
  callRoll: (_, { machines, targetId }) => ({ asked: desk().callRoll(machines, targetId) }),
  costs: () => desk().costs(),
  offers: () => coordinator().offers(),
  rails: () => desk().rails,
  saveRails: (_, { rails }) => {
    desk().rails = rails
    return { done: true }
  },
}
