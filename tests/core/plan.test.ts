import Ajv from 'ajv/dist/2020'
import fc from 'fast-check'
import { drawThinkMs } from '../../core/journey/journey'
import { addressOf, hostOf, type Target } from '../../core/journey/target'
import { presentAtSecondEnds, staysOf } from '../../core/load/stays'
import type { Plan } from '../../core/plan/document'
import { peakMoment } from '../../core/plan/peak'
import { applyFix } from '../../core/checks/apply-fix'
import type { PlanSurroundings } from '../../core/checks/plan-surroundings'
import { problemsOf } from '../../core/checks/problems'
import { PLAN_SCHEMA } from '../../core/plan/schema'
import type { Source } from '../../core/target/source'
import { CLIENT_PRESETS } from '../../core/client/presets'
import { PRESETS } from '../../core/network/presets'
import { seriesOf } from '../../core/run/series'
import { resolveShares } from '../../core/plan/shares'
import { dealPlan, sliceFor, usersPerCell } from '../../core/run/slice'
import { sizePlan } from '../../core/fleet/sizing'
import { DEMO_JOURNEYS, DEMO_PLAN, STAIRS_PLAN } from '../../demo/scenario'
import { hill, journey, offers, plan, runDocument, step, target } from '../build/plans'

const around = (over: Partial<PlanSurroundings> = {}): PlanSurroundings => ({
  target: target(),
  journeys: [journey()],
  offers: offers(),
  feeds: {},
  networks: PRESETS,
  clients: CLIENT_PRESETS,
  lengthMs: 60_000,
  now: '2026-11-25T08:00:00.000Z',
  ...over,
})
/** A page that tells one series. */
const tellsCpu: Source = {
  name: 'page',
  kind: 'metrics',
  address: 'http://target.test/metrics',
  everyS: 1,
  series: [{ name: 'CPU', of: 'cpu', kind: 'gauge', unit: '%' }],
}
const codes = (p: Plan, over: Partial<PlanSurroundings> = {}) =>
  problemsOf(p, around(over))
    .filter(x => x.weight === 'inTheWay')
    .map(x => x.code)

describe('what is in the way', () => {
  it('is nothing for a good plan, only that capacity is assumed', () => {
    expect(
      problemsOf(
        plan({ groups: [{ letter: 'A', name: 'A', journeyId: 'look', profile: hill(20, 3, 60, 1) }] }),
        around(),
      ).map(p => p.code),
    ).toEqual(['capacity-assumed'])
  })

  it.each<[string, Plan, Partial<PlanSurroundings>, string]>([
    ['shares below 100 %', plan({ placement: { A: { REY: 9500 } } }), {}, 'shares-total'],
    ['shares above 100 %', plan({ placement: { A: { REY: 6000, TAV: 5000 } } }), {}, 'shares-total'],
    ['no approval', plan(), { target: target({ approval: undefined }) }, 'not-approved'],
    [
      'an approval that ended',
      plan(),
      {
        target: target({
          approval: { hosts: ['127.0.0.1:1'], mostUsers: 99, until: '2026-01-01T00:00:00Z', contact: 'x' },
        }),
      },
      'approval-over',
    ],
    [
      'more users than approved',
      plan(),
      {
        target: target({
          approval: { hosts: ['127.0.0.1:1'], mostUsers: 19, until: '2999-01-01T00:00:00Z', contact: 'x' },
        }),
      },
      'over-approval',
    ],
    [
      'a host not approved',
      plan(),
      { journeys: [journey({ round: [step({ url: 'http://elsewhere.test/x' }), step({ name: 'Ask' })] })] },
      'host-not-approved',
    ],
    ['an unknown target', plan(), { target: undefined }, 'unknown-target'],
    ['an unknown location', plan({ placement: { A: { REY: 10_000, XXX: 100 } } }), {}, 'unknown-location'],
    [
      'an unknown region',
      plan({
        locations: [{ code: 'REY', provider: 'nimbral', region: 'atlantis', machineType: 'brisk-1', machines: 'auto' }],
        placement: { A: { REY: 'rest' } },
      }),
      {},
      'unknown-region',
    ],
    [
      'an unknown machine type',
      plan({
        locations: [{ code: 'REY', provider: 'nimbral', region: 'reyk', machineType: 'huge', machines: 'auto' }],
        placement: { A: { REY: 'rest' } },
      }),
      {},
      'unknown-type',
    ],
    [
      'zero users',
      plan({ groups: [{ letter: 'A', name: 'A', journeyId: 'look', profile: hill(0, 1, 1, 1) }] }),
      {},
      'zero-users',
    ],
    [
      'an unknown journey',
      plan({ groups: [{ letter: 'A', name: 'A', journeyId: 'nope', profile: hill(5, 1, 1, 1) }] }),
      {},
      'unknown-journey',
    ],
    ['too small a quota', plan(), { offers: offers({ quota: { most: 5, used: 5 } }) }, 'quota'],
    ['a silent provider', plan(), { offers: {} }, 'provider-silent'],
    [
      'users without a machine',
      plan({ locations: plan().locations.map(l => ({ ...l, machines: 0 })) }),
      {},
      'no-machine',
    ],
    [
      'an approval that ends before the load',
      plan(),
      {
        lengthMs: 3_600_000,
        target: target({
          approval: { hosts: ['127.0.0.1:1'], mostUsers: 99, until: '2026-11-25T08:30:00.000Z', contact: 'x' },
        }),
      },
      'approval-ends',
    ],
    [
      'hours the owner has not agreed to',
      plan(),
      {
        target: target({
          approval: {
            hosts: ['127.0.0.1:1'],
            mostUsers: 99,
            until: '2999-01-01T00:00:00Z',
            window: { from: '20:00', to: '06:00', zone: 'UTC' },
            contact: 'x',
          },
        }),
      },
      'outside-window',
    ],
    [
      'a load that would last past the hours agreed',
      plan(),
      {
        lengthMs: 3_600_000,
        target: target({
          approval: {
            hosts: ['127.0.0.1:1'],
            mostUsers: 99,
            until: '2999-01-01T00:00:00Z',
            window: { from: '07:00', to: '08:30', zone: 'UTC' },
            contact: 'x',
          },
        }),
      },
      'outside-window',
    ],
    [
      'a journey that names a value nobody sets',
      plan(),
      { journeys: [journey({ round: [step({ url: '/{{nobody}}' }), step({ name: 'Ask' })] })] },
      'journey',
    ],
    [
      'a journey that names a value the target lacks',
      plan(),
      { journeys: [journey({ round: [step({ url: '/{{target.term}}' }), step({ name: 'Ask' })] })] },
      'journey',
    ],
    [
      'a feed that is not there',
      plan(),
      { journeys: [journey({ feeds: [{ feed: 'gone', as: 'row', deal: 'once', per: 'user', atEnd: 'leave' }] })] },
      'journey',
    ],
    [
      'a host that stands behind a variable',
      plan(),
      {
        target: target({ addresses: { api: 'http://api.test' } }),
        journeys: [journey({ round: [step({ url: '{{target.api}}/x' }), step({ name: 'Ask' })] })],
      },
      'host-not-approved',
    ],
    [
      'a journey of which every step is off',
      plan(),
      { journeys: [journey({ round: [step({ off: true })] })] },
      'journey',
    ],
    [
      'an objective about a series the target does not tell',
      plan({ objectives: [{ metric: 'target', target: { series: 'CPU', unit: '%' }, atMost: 80 }] }),
      {},
      'objective-series',
    ],
    [
      'an objective about a series that is not read',
      plan({ objectives: [{ metric: 'target', target: { series: 'CPU', unit: '%' }, atMost: 80 }] }),
      { target: target({ sources: [tellsCpu] }) },
      'objective-unread',
    ],
    [
      'an objective in another unit than its series',
      plan({ objectives: [{ metric: 'target', target: { series: 'CPU' }, atMost: 80 }], targetFigures: { beforeS: 5 } }),
      { target: target({ sources: [tellsCpu] }) },
      'objective-unit',
    ],
    [
      'an objective about a step nobody does',
      plan({ objectives: [{ metric: 'p95', step: 'Fly', atMost: 1 }] }),
      {},
      'objective-step',
    ],
  ])('%s', (_, p, over, code) => {
    expect(codes(p, over)).toContain(code)
  })

  it('is nothing for an objective about a series that is read, which one press brings about', () => {
    const p = plan({ objectives: [{ metric: 'target', target: { series: 'CPU', unit: '%' }, atMost: 80 }] })
    const around = { target: target({ sources: [tellsCpu] }) }
    expect(codes(p, around)).toContain('objective-unread')
    applyFix(p, { kind: 'readTarget' })
    expect(codes(p, around).filter(c => c.startsWith('objective'))).toEqual([])
  })

  it('is nothing for objectives about spans, bundles and the whole round, and for addresses that a value completes', () => {
    const walked = journey({
      spans: [{ name: 'Both', from: 'Look', to: 'Ask', withThink: true }],
      round: [step({ url: '/a/{{user.number}}' }), step({ name: 'Ask', url: '{{target.base}}/b' })],
    })
    expect(
      codes(
        plan({
          objectives: [
            { metric: 'p95', step: 'Both', atMost: 1 },
            { metric: 'p95', step: 'Whole round', atMost: 1 },
          ],
        }),
        { journeys: [walked] },
      ),
    ).toEqual([])
  })

  it('in production is said, for it carries load of its own', () => {
    expect(
      problemsOf(plan(), around({ target: target({ environment: 'production' }) })).find(p => p.code === 'production')!
        .sentence,
    ).toBe('Portal is in production: it already carries load of its own.')
  })

  it('tells of a target whose own figures are asked for, and that has none', () => {
    const found = (of: Partial<Plan>, sources?: Target['sources']) =>
      problemsOf(plan(of), around({ target: target(sources ? { sources } : {}) })).map(p => p.code)
    const source = { name: 'page', kind: 'metrics' as const, address: 'http://x/metrics', everyS: 1 }
    const asks = { targetFigures: { beforeS: 30 } }
    expect(found(asks)).toContain('no-target-figures')
    expect(found(asks, [{ ...source, series: [] }])).toContain('no-target-figures')
    expect(found(asks, [{ ...source, series: [{ name: 'CPU', of: 'cpu', kind: 'gauge' }] }])).not.toContain('no-target-figures')
    expect(found({})).not.toContain('no-target-figures')
  })

  it('offers the share that is missing as a fix, in words with its size', () => {
    const found = problemsOf(plan({ placement: { A: { REY: 9500 } } }), around()).find(p => p.code === 'shares-total')!
    expect(found.sentence).toBe('Lookers: 5 % has no place.')
    expect(found.fix).toEqual({ kind: 'giveShare', group: 'A', location: 'REY', bp: 500 })
  })
})

describe('the plan document', () => {
  const validate = new Ajv({ strict: true, allowUnionTypes: true }).compile(PLAN_SCHEMA)
  it('of the demo follows its schema; a misspelt one does not', () => {
    expect(validate(DEMO_PLAN)).toBe(true)
    expect(validate(STAIRS_PLAN)).toBe(true)
    expect(validate({ ...DEMO_PLAN, questoin: 'x' })).toBe(false)
    expect(validate({ ...DEMO_PLAN, placement: { A: { REY: 10_001 } } })).toBe(false)
  })

  it('of the demo has nothing in the way', () => {
    const demo = target({ id: 'enrolment-portal', baseUrl: 'http://127.0.0.1:1' })
    const regions = {
      nimbral: ['reyk', 'tavira', 'osaki'].map(region => ({
        region,
        types: offers().nimbral![0]!.types,
        quota: { most: 5, used: 0 },
        bootS: 1,
      })),
    }
    for (const p of [DEMO_PLAN, STAIRS_PLAN])
      expect(codes(p, { target: demo, journeys: DEMO_JOURNEYS, offers: regions })).toEqual([])
  })
})

describe('shares', () => {
  it('give “rest” cells what the others leave, evenly, to the basis point', () => {
    const p = plan({
      locations: ['REY', 'TAV', 'OSA'].map(code => ({
        code,
        provider: 'n',
        region: 'r',
        machineType: 't',
        machines: 1,
      })),
      placement: { A: { REY: 3333, TAV: 'rest', OSA: 'rest' } },
    })
    expect(resolveShares(p, 'A')).toEqual({ bp: [3333, 3334, 3333], totalBp: 10_000 })
  })
})

describe('slices', () => {
  it('of all generators together are every user exactly once, and the sum of their stays is the plan, second by second', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 60 }),
        fc.integer({ min: 1, max: 4 }),
        fc.integer({ min: 1, max: 9999 }),
        (users, machines, bp) => {
          const document = runDocument({
            plan: plan({
              groups: [
                { letter: 'A', name: 'A', journeyId: 'look', profile: hill(users, 5, 4, 3) },
                { letter: 'B', name: 'B', journeyId: 'look', profile: hill(7, 1, 6, 1) },
              ],
              placement: { A: { REY: bp, TAV: 'rest' }, B: { TAV: 10_000 } },
            }),
          })
          const capacities = [Array.from({ length: machines }, () => 1), [1]]
          const slices = capacities.flatMap((g, location) =>
            g.map((_, generator) => sliceFor(document, capacities, { location, generator })),
          )
          const all = slices.flatMap(s => s.users)
          expect(new Set(all.map(u => `${u.group}/${u.number}`)).size).toBe(users + 7)
          expect(all.length).toBe(users + 7)
          const whole = presentAtSecondEnds(
            document.plan.groups.flatMap(g => staysOf(g.profile)),
            12,
          )
          const parts = slices.map(s =>
            presentAtSecondEnds(
              s.users.map(u => u.stays),
              12,
            ),
          )
          for (let s = 0; s < 12; s++) expect(parts.reduce((sum, p) => sum + p[s]!, 0)).toBe(whole[s])
        },
      ),
      { numRuns: 60 },
    )
  })

  it('name series that every side numbers alike, none for cells without a share', () => {
    const document = runDocument({ plan: plan({ placement: { A: { TAV: 10_000 } } }) })
    expect(seriesOf(document).map(s => [s.location, s.stepName])).toEqual([
      [1, 'Look'],
      [1, 'Ask'],
      [1, 'Whole round'],
    ])
    expect(sliceFor(document, [[1], [1]], { location: 1, generator: 0 }).users[0]).toMatchObject({
      firstSeries: 0,
      number: 1,
    })
    expect(dealPlan(document, [[1], [1]])[0]!.locationOf[0]).toBe(1)
  })

  it('size machines by the users a location really gets', () => {
    expect(usersPerCell({ plan: plan() })).toEqual([[12, 8]])
    expect(
      sizePlan(plan({ assumedUsersPerVcpu: 5 }), {
        journeys: [journey()],
        offers: offers(),
        capacities: [],
        stale: [],
        billedS: 60,
      })[0],
    ).toMatchObject({ code: 'REY', users: 12, needed: 3, basis: 'assumed' })
  })
})

describe('peak', () => {
  it('is of the sum, not the sum of the peaks', () => {
    const p = plan({
      groups: [
        { letter: 'A', name: 'A', journeyId: 'look', profile: hill(10, 0, 5, 0) },
        {
          letter: 'B',
          name: 'B',
          journeyId: 'look',
          profile: {
            startDelayMs: 5000,
            segments: [
              { to: 8, overMs: 0 },
              { to: 8, overMs: 5000 },
            ],
          },
        },
      ],
    })
    expect(peakMoment(p)).toEqual({ users: 10, atMs: 0 })
  })
})

describe('steps', () => {
  it('know their address and host', () => {
    expect(addressOf({ baseUrl: 'http://a.test:81/x/' }, '/y?z=1').href).toBe('http://a.test:81/x/y?z=1')
    expect(hostOf(addressOf({ baseUrl: 'http://a.test' }, 'https://b.test/q'))).toBe('b.test:443')
  })

  it('draw pauses within their bounds', () => {
    expect(drawThinkMs({ kind: 'uniform', fromMs: 10, toMs: 20 }, () => 0.5)).toBe(15)
    expect(drawThinkMs({ kind: 'none' }, () => 0.5)).toBe(0)
  })
})
