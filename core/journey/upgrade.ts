/** Reads journeys as earlier releases wrote them. */
import type { HttpJourney, Journey, Method, RequestStep, ThinkTime } from './journey'

interface FirstStep {
  name: string
  method: Method
  url: string
  headers?: Record<string, string>
  body?: string
  think: ThinkTime
  expectStatus: number[]
  expectText?: string
  timeoutMs: number
}

/** @param stored a journey of this or an earlier release */
export function upgradeJourney(stored: unknown): Journey {
  // What is kept was held against the schema of the release that kept it.
  const journey = stored as Journey
  if (journey.schema === 'vornak-journey/1') return journey
  // As above: there was one form before.
  const first = stored as { id: string, name: string, round: FirstStep[] }
  return {
    schema: 'vornak-journey/1',
    kind: 'http',
    id: first.id,
    name: first.name,
    identity: 'kept',
    opening: [],
    closing: [],
    round: first.round.map((s): RequestStep => ({
      name: s.name,
      method: s.method,
      url: s.url,
      think: s.think,
      timeoutMs: s.timeoutMs,
      ...(s.headers ? { headers: Object.entries(s.headers) } : {}),
      ...(s.body === undefined ? {} : { body: { kind: 'json', text: s.body } }),
      expect: [
        { kind: 'status', allow: s.expectStatus.join(', ') },
        ...(s.expectText === undefined
          ? []
          : [{ kind: 'body' as const, rule: 'contains' as const, value: s.expectText }]),
      ],
    })),
  } satisfies HttpJourney
}
