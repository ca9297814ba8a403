/**
 * The demo: enrolment morning at Ostervik University. Invented, like everything in it. The shipped plan is scaled from
 * 1,200 students to 240.
 */
import type { HttpJourney, Journey, RequestStep, Step, ThinkTime } from '../core/journey/journey'
import type { Target } from '../core/journey/target'
import type { Source } from '../core/target/source'
import type { Site } from '../core/fleet/site'
import type { Plan } from '../core/plan/document'

export const PORTAL_ID = 'enrolment-portal'

/** What the portal says of itself. */
const portalFigures = (baseUrl: string): Source => ({
  name: 'portal metrics',
  kind: 'metrics',
  address: `${baseUrl}/metrics`,
  everyS: 1,
  series: [
    { name: 'CPU', of: 'portal_cpu_ratio', kind: 'gauge', unit: '%', factor: 100, standsFor: 'cpu', limit: 85 },
    { name: 'connections', of: 'portal_connections', kind: 'gauge', standsFor: 'connections' },
    { name: 'queue', of: 'portal_waiting', kind: 'gauge', standsFor: 'queue' },
    { name: 'replicas', of: 'portal_replicas', kind: 'gauge', standsFor: 'replicas' },
    { name: 'memory', of: 'portal_memory_bytes', kind: 'gauge', unit: 'MB', factor: 1e-6, standsFor: 'memory' },
    { name: 'calls', of: 'portal_calls', kind: 'count', labels: { run: '{{run}}' }, by: 'step', unit: '/s', standsFor: 'calls' },
    {
      name: 'time inside',
      of: 'portal_call_seconds',
      kind: 'p95',
      labels: { run: '{{run}}' },
      by: 'step',
      unit: 'ms',
      factor: 1000,
      standsFor: 'duration',
    },
  ],
})

/** @param baseUrl where the portal stand-in listens @param until end of the approval, ISO 8601 */
export function demoTarget(baseUrl: string, until: string): Target {
  return {
    id: PORTAL_ID,
    name: 'Enrolment portal',
    environment: 'staging',
    baseUrl,
    variables: { term: 'autumn' },
    insideName: 'total',
    prices: { perReplicaHour: 0.34, perCall: 0.000012 },
    sources: [portalFigures(baseUrl)],
    approval: { hosts: [new URL(baseUrl).host], mostUsers: 600, until, contact: 'Head of student systems' },
  }
}

const between = (fromMs: number, toMs: number): ThinkTime => ({ kind: 'uniform', fromMs, toMs })
/** Accounts of the demo: made up, like everything in it. */
export const DEMO_STUDENTS = {
  name: 'students',
  rows: 5000,
  csv: () =>
    `name,programme\n${Array.from({ length: 5000 }, (_, i) => `s${1001 + i},${['history', 'chemistry', 'law', 'nursing'][i % 4]}`).join('\n')}\n`,
}

/** What a browser does at the portal: sign in, load the page and its files, take a token, choose, enrol. */
const asABrowser: Step[] = [
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
    think: { kind: 'none' },
    timeoutMs: 10_000,
    expect: [
      { kind: 'status', allow: '200' },
      { kind: 'body', rule: 'contains', value: 'Signed in as' },
    ],
    capture: [{ name: 'form', from: { kind: 'between', left: 'name="form" value="', right: '"' } }],
  },
  {
    name: 'Page files',
    think: { kind: 'none' },
    parallel: 6,
    requests: ['portal.css', 'portal.js', 'crest.svg'].map(f => ({
      name: f,
      method: 'GET',
      url: `/${f}`,
      timeoutMs: 10_000,
      expect: [{ kind: 'status', allow: '200' }],
    })),
  },
  {
    name: 'Token',
    method: 'GET',
    url: '/api/token',
    think: { kind: 'none' },
    timeoutMs: 10_000,
    expect: [{ kind: 'status', allow: '200' }],
    capture: [{ name: 'token', from: { kind: 'json', path: '$.token' } }],
  },
  {
    name: 'Choose module',
    method: 'GET',
    url: '/api/modules',
    query: [['term', 'autumn']],
    headers: [['x-enrolment-token', '{{token}}']],
    think: { kind: 'normal', meanMs: 4000, deviationMs: 1500 },
    timeoutMs: 10_000,
    expect: [
      { kind: 'status', allow: '200' },
      { kind: 'json', path: '$.modules[?@.seats > 0].code', rule: 'exists' },
    ],
    capture: [{ name: 'module', from: { kind: 'json', path: '$.modules[3].code' } }],
  },
  {
    name: 'Confirm',
    method: 'POST',
    url: '/api/enrolments',
    headers: [['x-enrolment-token', '{{token}}']],
    body: { kind: 'json', text: '{"module":"{{module}}","form":"{{form}}"}' },
    think: { kind: 'uniform', fromMs: 1000, toMs: 3000 },
    timeoutMs: 10_000,
    expect: [
      { kind: 'status', allow: '200' },
      { kind: 'json', path: '$.enrolled', rule: 'equals', value: 'true' },
      { kind: 'duration', atMostMs: 1800, onlyCount: true },
    ],
  },
]

const journey = (id: string, name: string, round: RequestStep[]): HttpJourney => ({
  schema: 'vornak-journey/1',
  kind: 'http',
  id,
  name,
  tags: ['enrolment morning'],
  identity: 'kept',
  opening: [],
  round,
  closing: [],
})

export const DEMO_JOURNEYS: Journey[] = [
  journey('browse', 'Browse timetable', [
    {
      name: 'Timetable',
      method: 'GET',
      url: '/timetable',
      think: between(1500, 3500),
      expect: [
        { kind: 'status', allow: '200' },
        { kind: 'body', rule: 'contains', value: 'modules' },
      ],
      timeoutMs: 10_000,
    },
    {
      name: 'Module',
      method: 'GET',
      url: '/modules',
      query: [['code', 'OSU-1104']],
      think: between(1500, 3500),
      expect: [{ kind: 'status', allow: '200' }],
      timeoutMs: 10_000,
    },
  ]),
  journey('enrol', 'Enrol in modules', [
    {
      name: 'Timetable',
      method: 'GET',
      url: '/timetable',
      think: between(1000, 3000),
      expect: [{ kind: 'status', allow: '200' }],
      timeoutMs: 10_000,
    },
    {
      name: 'Module',
      method: 'GET',
      url: '/modules',
      query: [['code', 'OSU-1104']],
      think: between(1000, 2000),
      expect: [{ kind: 'status', allow: '200' }],
      timeoutMs: 10_000,
    },
    {
      name: 'Enrol',
      method: 'POST',
      url: '/enrol',
      body: { kind: 'json', text: '{"module":"OSU-1104"}' },
      think: between(1500, 3500),
      expect: [
        { kind: 'status', allow: '201' },
        { kind: 'json', path: '$.enrolled', rule: 'equals', value: 'true' },
      ],
      timeoutMs: 10_000,
    },
  ]),
  journey('approve', 'Adviser approves', [
    {
      name: 'Approve',
      method: 'POST',
      url: '/approvals',
      body: { kind: 'json', text: '{"request":17}' },
      think: between(3000, 7000),
      expect: [{ kind: 'status', allow: '200' }],
      timeoutMs: 10_000,
    },
  ]),
]

/** The whole of it, for one user at a time to try: cookies, a page with its files, captures, a feed. */
export const BROWSER_JOURNEY: HttpJourney = {
  ...journey('as-a-browser', 'Enrol as a browser does', []),
  identity: 'fresh',
  round: asABrowser,
  feeds: [{ feed: DEMO_STUDENTS.name, as: 'student', deal: 'once', per: 'pass', atEnd: 'leave' }],
  spans: [
    { name: 'Sign in to page', from: 'Sign in', to: 'Page files', withThink: false },
    { name: 'Choosing', from: 'Token', to: 'Confirm', withThink: true },
  ],
}

const ramp = (to: number, upS: number, holdS: number, downS: number, startDelayMs = 0) => ({
  startDelayMs,
  segments: [
    { to, overMs: upS * 1000 },
    { to, overMs: holdS * 1000 },
    { to: 0, overMs: downS * 1000 },
  ],
})

const PLACES: Pick<Plan, 'locations' | 'placement' | 'networks'> = {
  locations: [
    { code: 'REY', provider: 'nimbral', region: 'reyk', machineType: 'brisk-1', machines: 'auto' },
    { code: 'TAV', provider: 'nimbral', region: 'tavira', machineType: 'brisk-1', machines: 'auto' },
    { code: 'OSA', provider: 'nimbral', region: 'osaki', machineType: 'brisk-1', machines: 'auto' },
  ],
  placement: {
    A: { REY: 5000, TAV: 3500, OSA: 'rest' },
    B: { REY: 10_000 },
    C: { REY: 3500, TAV: 4000, OSA: 'rest' },
    D: { REY: 2500, TAV: 'rest' },
  },
  networks: {
    A: {
      REY: { 'city-fibre': 7000, 'copper-line': 3000 },
      TAV: { 'city-fibre': 7000 },
      OSA: { 'far-satellite': 2000, 'copper-line': 8000 },
    },
    B: { REY: { 'campus-wire': 10_000 } },
    C: {
      REY: { 'commuter-mobile': 8000, 'weak-mobile': 2000 },
      TAV: { 'commuter-mobile': 10_000 },
      OSA: { 'commuter-mobile': 10_000 },
    },
  },
}

/** The plan that is ready to start. */
export const DEMO_PLAN: Plan = {
  schema: 'vornak-plan/3',
  name: 'Enrolment morning',
  tags: ['scaled to a fifth'],
  question: 'Can the portal take 240 students at 08:00, 95 % of enrolments confirmed within 1.8 s?',
  targetId: PORTAL_ID,
  groups: [
    { letter: 'A', name: 'Students at home', journeyId: 'enrol', profile: ramp(104, 15, 45, 5) },
    { letter: 'B', name: 'Students on campus', journeyId: 'enrol', profile: ramp(68, 12, 48, 5) },
    {
      letter: 'C',
      name: 'Students commuting',
      journeyId: 'browse',
      profile: ramp(60, 10, 46, 5, 4000),
      clients: { 'phone-browser': 7000, 'phone-app': 3000 },
    },
    { letter: 'D', name: 'Advisers', journeyId: 'approve', profile: ramp(8, 5, 50, 5, 5000) },
  ],
  ...PLACES,
  objectives: [
    { metric: 'p95', step: 'Enrol', atMost: 1800 },
    { metric: 'failures', atMost: 0.005 },
  ],
  assumedUsersPerVcpu: 60,
  rehearse: true,
  targetFigures: { beforeS: 20 },
  keepMachinesMin: 0,
  seed: 2026,
}

const stairs = (levels: number[], upS: number, holdS: number, downS: number, startDelayMs = 0) => ({
  startDelayMs,
  segments: [
    ...levels.flatMap(to => [
      { to, overMs: upS * 1000 },
      { to, overMs: holdS * 1000 },
    ]),
    { to: 0, overMs: downS * 1000 },
  ],
})

/** A plan that climbs until something gives: asked before the demo begins. */
export const STAIRS_PLAN: Plan = {
  ...DEMO_PLAN,
  name: 'How far it carries',
  question: 'Up to how many students are 95 % of enrolments confirmed within 1.8 s?',
  groups: [
    { letter: 'A', name: 'Students at home', journeyId: 'enrol', profile: stairs([65, 130, 195, 260], 15, 75, 20) },
    { letter: 'B', name: 'Students on campus', journeyId: 'enrol', profile: stairs([45, 90, 135, 180], 15, 75, 20) },
    {
      letter: 'C',
      name: 'Students commuting',
      journeyId: 'browse',
      profile: stairs([36, 72, 108, 144], 15, 75, 20),
      clients: { 'phone-browser': 7000, 'phone-app': 3000 },
    },
    { letter: 'D', name: 'Advisers', journeyId: 'approve', profile: stairs([4, 8, 12, 16], 15, 75, 20) },
  ],
  assumedUsersPerVcpu: 120,
}

/** Visitors who come whatever the portal does: an open drive, and a held rate beside it. */
export const RUSH_PLAN: Plan = {
  ...DEMO_PLAN,
  name: 'Timetable rush',
  question: 'Does the timetable stand six visitors a second while advisers work at a steady rate?',
  tags: ['open drives'],
  groups: [
    {
      letter: 'A',
      name: 'Visitors',
      journeyId: 'browse',
      profile: {
        startDelayMs: 0,
        segments: [
          { to: 6, overMs: 15_000 },
          { to: 6, overMs: 45_000 },
          { to: 0, overMs: 5000 },
        ],
      },
      drive: { kind: 'arrivals', spacing: 'poisson', mostInFlight: 60 },
    },
    {
      letter: 'D',
      name: 'Advisers',
      journeyId: 'approve',
      profile: {
        startDelayMs: 0,
        segments: [
          { to: 3, overMs: 10_000 },
          { to: 3, overMs: 55_000 },
        ],
      },
      drive: { kind: 'requests', fewestUsers: 2, mostUsers: 40 },
    },
  ],
  placement: { A: { REY: 5000, TAV: 'rest', OSA: 'rest' }, D: { REY: 'rest' } },
  networks: { A: { REY: { 'city-fibre': 5000 }, OSA: { 'commuter-mobile': 10_000 } } },
  objectives: [
    { metric: 'p95', step: 'Timetable', atMost: 1000 },
    { metric: 'failures', atMost: 0.005, window: 'whole' },
    { metric: 'throughput', step: 'Approve', atLeast: 2.5 },
  ],
}

/**
 * The private site of the demo; its hosts are the stand-in's. @param ports where they listen @param keyName key they
 * let in @param reservedUntil ISO 8601
 */
export function demoSite(ports: readonly number[], keyName: string, reservedUntil: string): Site {
  return {
    id: 'ovk',
    code: 'OVK',
    name: 'Ostervik computing centre',
    template: { port: 22, user: 'loadtest', signIn: { kind: 'key', key: keyName }, folder: '~/vornak', node: 'node' },
    hosts: ports.map((port, i) => ({
      name: `ovk-${'abcdef'[i]}`,
      address: '127.0.0.1',
      port,
      cores: 1,
      ...(i === 2 ? { reservedBy: 'Network group', reservedUntil } : {}),
    })),
  }
}

/** Cloud and private hosts in one run. */
export const CAMPUS_PLAN: Plan = {
  ...DEMO_PLAN,
  name: 'Campus and cloud',
  question: 'Is the timetable as quick from the computing centre as from the cloud?',
  tags: ['private hosts'],
  groups: [
    { letter: 'A', name: 'Lookers', journeyId: 'browse', profile: ramp(60, 10, 45, 5) },
    { letter: 'D', name: 'Advisers', journeyId: 'approve', profile: ramp(8, 5, 50, 5, 5000) },
  ],
  locations: [
    { code: 'OVK', provider: 'private', region: 'ovk', machineType: 'host', machines: 'auto' },
    {
      code: 'REY',
      provider: 'nimbral',
      region: 'reyk',
      machineType: 'brisk-1',
      machines: 'auto',
      interruptible: true,
      elsewhere: ['osaki'],
    },
  ],
  placement: { A: { OVK: 5000, REY: 'rest' }, D: { OVK: 'rest' } },
  networks: {},
  objectives: [
    { metric: 'p95', step: 'Timetable', location: 'OVK', atMost: 400 },
    { metric: 'p95', step: 'Timetable', location: 'REY', atMost: 400 },
  ],
  assumedUsersPerVcpu: 30,
  keepMachinesMin: 10,
  waitForMachinesMin: 5,
  mostCost: 1,
}
