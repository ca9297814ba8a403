/** The document of a bench's load: one group on one journey. */
import type { HttpJourney, Step } from '../core/journey/journey'
import type { Target } from '../core/journey/target'
import type { NetworkProfile } from '../core/network/profile'
import type { RunDocument } from '../core/run/document'

export const step = (over: Partial<Extract<Step, { url: string }>> = {}): Step => ({
  name: 'get',
  method: 'GET',
  url: '/',
  think: { kind: 'none' },
  expect: [{ kind: 'status', allow: '200' }],
  timeoutMs: 10_000,
  ...over,
})

/** The network of shaped cases. */
export const LINE: NetworkProfile = {
  id: 'line',
  name: 'line',
  latencyMs: 40,
  jitterMs: 0,
  loss: 0,
  downBps: 5e6,
  upBps: 5e6,
}

/** No exemplars are kept but where a bench is about them: what is measured is the load itself. */
export function benchDocument(
  host: string,
  round: Step[],
  journey: Partial<HttpJourney> = {},
  target: Partial<Target> = {},
): RunDocument {
  return {
    planVersion: 1,
    fleet: [],
    target: {
      id: 't',
      name: 't',
      environment: 'test',
      baseUrl: `http://${host}`,
      approval: { hosts: [host], mostUsers: 1e6, until: '9999', contact: '' },
      ...target,
    },
    networks: [LINE],
    journeys: [
      {
        schema: 'vornak-journey/1',
        kind: 'http',
        id: 'j',
        name: 'j',
        identity: 'kept',
        opening: [],
        round,
        closing: [],
        ...journey,
      },
    ],
    plan: {
      schema: 'vornak-plan/3',
      name: '',
      question: '',
      targetId: 't',
      groups: [{ letter: 'A', name: '', journeyId: 'j', profile: { startDelayMs: 0, segments: [] } }],
      locations: [],
      placement: {},
      objectives: [],
      assumedUsersPerVcpu: 1,
      rehearse: false,
      keepMachinesMin: 0,
      seed: 1,
    },
  }
}
