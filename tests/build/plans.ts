/** Small plans for tests, one line each where they are used. */
import type { HttpJourney, RequestStep } from '../../core/journey/journey'
import type { Target } from '../../core/journey/target'
import type { LoadProfile } from '../../core/load/profile'
import type { Plan } from '../../core/plan/document'
import type { RegionOffer } from '../../core/offers/machine-type'
import type { RunDocument } from '../../core/run/document'

export function step(over: Partial<RequestStep> = {}): RequestStep {
  return {
    name: 'Look',
    method: 'GET',
    url: '/timetable',
    think: { kind: 'uniform', fromMs: 50, toMs: 250 },
    expect: [{ kind: 'status', allow: '200' }],
    timeoutMs: 5000,
    ...over,
  }
}

export function journey(over: Partial<HttpJourney> = {}): HttpJourney {
  return {
    schema: 'vornak-journey/1',
    kind: 'http',
    id: 'look',
    name: 'Look around',
    identity: 'kept',
    opening: [],
    closing: [],
    round: [step(), step({ name: 'Ask', url: '/modules' })],
    ...over,
  }
}

export function target(over: Partial<Target> = {}): Target {
  return {
    id: 'portal',
    name: 'Portal',
    environment: 'test',
    baseUrl: 'http://127.0.0.1:1',
    approval: { hosts: ['127.0.0.1:1'], mostUsers: 10_000, until: '2999-01-01T00:00:00.000Z', contact: 'its owner' },
    ...over,
  }
}

/** Up in `upS`, hold, down in `downS`. */
export function hill(users: number, upS: number, holdS: number, downS: number): LoadProfile {
  return {
    startDelayMs: 0,
    segments: [
      { to: users, overMs: upS * 1000 },
      { to: users, overMs: holdS * 1000 },
      { to: 0, overMs: downS * 1000 },
    ],
  }
}

export function plan(over: Partial<Plan> = {}): Plan {
  return {
    schema: 'vornak-plan/3',
    name: 'A plan',
    question: 'Does it hold?',
    targetId: 'portal',
    groups: [{ letter: 'A', name: 'Lookers', journeyId: 'look', profile: hill(20, 3, 6, 1) }],
    locations: [
      { code: 'REY', provider: 'nimbral', region: 'reyk', machineType: 'brisk-1', machines: 'auto' },
      { code: 'TAV', provider: 'nimbral', region: 'tavira', machineType: 'brisk-1', machines: 'auto' },
    ],
    placement: { A: { REY: 6000, TAV: 'rest' } },
    objectives: [{ metric: 'p95', step: 'Ask', atMost: 1000 }],
    assumedUsersPerVcpu: 20,
    rehearse: true,
    keepMachinesMin: 0,
    seed: 1,
    ...over,
  }
}

const BRISK = { name: 'brisk-1', vcpu: 1, memoryMb: 2048, pricePerHour: 0.06, billingGrainS: 60 }

export function offers(over: Partial<RegionOffer> = {}): Record<string, RegionOffer[]> {
  return {
    nimbral: ['reyk', 'tavira'].map(region => ({
      region,
      types: [BRISK],
      quota: { most: 5, used: 0 },
      bootS: 1,
      ...over,
    })),
  }
}

export function runDocument(over: Partial<RunDocument> = {}): RunDocument {
  return {
    plan: plan(),
    planVersion: 1,
    target: target(),
    journeys: [journey()],
    fleet: [
      { location: 'REY', type: BRISK, machines: 1 },
      { location: 'TAV', type: BRISK, machines: 1 },
    ],
    ...over,
  }
}
