/** The document of a bench's load: one group on one journey. */
import type { HttpJourney, Step } from '../core/journey/journey'
import type { RunDocument } from '../core/plan/document'

export const step = (over: Partial<Extract<Step, { url: string }>> = {}): Step => ({ name: 'get', method: 'GET', url: '/', think: { kind: 'none' }, expect: [{ kind: 'status', allow: '200' }], timeoutMs: 10_000, ...over })

/** No exemplars are kept but where a bench is about them: what is measured is the load itself. */
export function benchDocument(host: string, round: Step[], journey: Partial<HttpJourney> = {}): RunDocument {
  return {
    planVersion: 1, fleet: [], target: { id: 't', name: 't', environment: 'test', baseUrl: `http://${host}`, approval: { hosts: [host], mostUsers: 1e6, until: '9999', contact: '' } },
    journeys: [{ schema: 'vornak-journey/1', kind: 'http', id: 'j', name: 'j', identity: 'kept', opening: [], round, closing: [], ...journey }],
    plan: { schema: 'vornak-plan/2', name: '', question: '', targetId: 't', groups: [{ letter: 'A', name: '', journeyId: 'j', profile: { startDelayMs: 0, segments: [] } }], locations: [], placement: {}, objectives: [], assumedUsersPerVcpu: 1, rehearse: false, keepMachinesMin: 0, seed: 1 },
  }
}
