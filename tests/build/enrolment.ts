/**
 * The enrolment as a browser does it, on the portal stand-in: sign-in with a cookie, a page with its files, a token to
 * take along.
 */
import type { HttpJourney } from '../../core/journey/journey'

export function enrolmentJourney(over: Partial<HttpJourney> = {}): HttpJourney {
  const think = { kind: 'uniform' as const, fromMs: 10, toMs: 40 }
  return {
    schema: 'vornak-journey/1',
    kind: 'http',
    id: 'enrolment',
    name: 'Enrol as a browser does',
    identity: 'fresh',
    feeds: [{ feed: 'students', as: 'student', deal: 'once', per: 'pass', atEnd: 'leave' }],
    opening: [],
    closing: [],
    round: [
      {
        name: 'Sign in',
        method: 'POST',
        url: '/sign-in',
        body: {
          kind: 'form',
          fields: [
            ['student', '{{student.name}}'],
            ['password', '{{target.password}}'],
          ],
        },
        redirects: 5,
        think,
        timeoutMs: 5000,
        expect: [
          { kind: 'status', allow: '200' },
          { kind: 'body', rule: 'contains', value: 'Signed in as' },
        ],
        capture: [{ name: 'form', from: { kind: 'between', left: 'name="form" value="', right: '"' } }],
      },
      {
        name: 'Page files',
        think,
        parallel: 2,
        requests: ['portal.css', 'portal.js', 'crest.svg'].map(f => ({
          name: f,
          method: 'GET',
          url: `/${f}`,
          timeoutMs: 5000,
          expect: [{ kind: 'status', allow: '200' }],
        })),
      },
      {
        name: 'Token',
        method: 'GET',
        url: '/api/token',
        think: { kind: 'none' },
        timeoutMs: 5000,
        capture: [{ name: 'token', from: { kind: 'json', path: '$.token' } }],
      },
      {
        name: 'Modules',
        method: 'GET',
        url: '/api/modules',
        query: [['term', 'autumn']],
        headers: [['x-enrolment-token', '{{token}}']],
        think,
        timeoutMs: 5000,
        expect: [{ kind: 'json', path: '$.modules[?@.seats > 0].code', rule: 'exists' }],
        capture: [{ name: 'module', from: { kind: 'expression', pattern: '"code":"(OSU-\\d+)"' } }],
      },
      {
        name: 'Enrol',
        method: 'POST',
        url: '/api/enrolments',
        headers: [['x-enrolment-token', '{{token}}']],
        body: { kind: 'json', text: '{"module":"{{module}}","form":"{{form}}"}' },
        think,
        timeoutMs: 5000,
        expect: [{ kind: 'json', path: '$.enrolled', rule: 'equals', value: 'true' }],
      },
    ],
    spans: [
      { name: 'Choosing', from: 'Token', to: 'Enrol', withThink: false },
      { name: 'Choosing with pauses', from: 'Token', to: 'Enrol', withThink: true },
    ],
    ...over,
  }
}
