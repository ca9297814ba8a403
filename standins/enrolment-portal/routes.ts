/** What the portal serves, and how long a worker takes for it. */

export type ServiceTime =
  | { kind: 'exponential', meanMs: number }
  | { kind: 'lognormal', medianMs: number, sigma: number }
  | { kind: 'fixed', ms: number }

export interface Route {
  method: string
  path: string
  service: ServiceTime
  /** Status and body of the answer. */
  status: number
  body: string
}

export const ROUTES: Route[] = [
  {
    method: 'GET',
    path: '/timetable',
    service: { kind: 'lognormal', medianMs: 22, sigma: 0.5 },
    status: 200,
    body: JSON.stringify({
      term: 'autumn',
      modules: Array.from({ length: 24 }, (_, i) => ({ code: `OSU-${1100 + i}`, title: `Module ${i + 1}`, seats: 30 })),
    }),
  },
  {
    method: 'GET',
    path: '/modules',
    service: { kind: 'lognormal', medianMs: 30, sigma: 0.6 },
    status: 200,
    body: JSON.stringify({ code: 'OSU-1104', open: true, seats: 12 }),
  },
  {
    method: 'POST',
    path: '/enrol',
    service: { kind: 'lognormal', medianMs: 75, sigma: 0.55 },
    status: 201,
    body: JSON.stringify({ enrolled: true }),
  },
  {
    method: 'POST',
    path: '/approvals',
    service: { kind: 'lognormal', medianMs: 40, sigma: 0.5 },
    status: 200,
    body: JSON.stringify({ approved: true }),
  },
  { method: 'GET', path: '/queueing', service: { kind: 'exponential', meanMs: 20 }, status: 200, body: 'ok' },
]

/** Draws one service time, ms. @param random numbers in [0, 1) */
export function drawServiceMs(service: ServiceTime, random: () => number): number {
  switch (service.kind) {
    case 'fixed':
      return service.ms
    case 'exponential':
      return -Math.log(1 - random()) * service.meanMs
    // Box–Muller for the normal underneath.
    case 'lognormal':
      return (
        service.medianMs *
        Math.exp(service.sigma * Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random()))
      )
  }
}
