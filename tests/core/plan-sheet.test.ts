/**
 * What the plan sheet is made of: the plan as text, versions held against each other, objectives as sentences,
 * ready-made placements, and its warnings.
 */
import fc from 'fast-check'
import { readPlanText, printPlan } from '../../core/formats/plan-text'
import { readObjective } from '../../core/objectives/read-objective'
import { printObjective } from '../../core/objectives/sentence'
import { judge } from '../../core/objectives/judge'
import { figuresOf } from '../../core/merge/figures'
import { SeriesSum } from '../../core/merge/series-sum'
import { CLIENT_PRESETS } from '../../core/client/presets'
import { PRESETS } from '../../core/network/presets'
import { applyFix } from '../../core/checks/apply-fix'
import { changesBetween } from '../../core/checks/differences'
import type { Objective, Plan } from '../../core/plan/document'
import { readTraffic, spreadEvenly } from '../../core/plan/presets'
import type { Fix } from '../../core/checks/problem'
import { problemsOf } from '../../core/checks/problems'
import { upgradePlan } from '../../core/plan/upgrade'
import { mixOf, networksUsed, resolveShares } from '../../core/plan/shares'
import { seriesOf } from '../../core/run/series'
import { dealPlan } from '../../core/run/slice'
import { DEMO_PLAN, RUSH_PLAN, STAIRS_PLAN } from '../../demo/scenario'
import { hill, journey, offers, plan, runDocument, target } from '../build/plans'

const faultsOf = (text: string) => {
  const read = readPlanText(text)
  return read.ok ? [] : read.problems
}

describe('a plan as text', () => {
  it.each([DEMO_PLAN, STAIRS_PLAN, RUSH_PLAN])('comes back as it was, from YAML and from JSON: $name', (p) => {
    expect(readPlanText(printPlan(p))).toEqual({ ok: true, plan: p })
    expect(readPlanText(JSON.stringify(p))).toEqual({ ok: true, plan: p })
    expect(printPlan(p)).toBe(printPlan((readPlanText(printPlan(p)) as { plan: Plan }).plan))
  })

  it('comes back whatever its names and numbers are', () => {
    const text = fc.string({ minLength: 1, maxLength: 40 }).filter(t => !t.includes('__proto__'))
    fc.assert(
      fc.property(
        text,
        text,
        fc.array(text, { minLength: 1, maxLength: 3 }).map(t => [...new Set(t)]),
        fc.integer({ min: 0, max: 10_000 }),
        fc.double({ min: 0, max: 100, noNaN: true }),
        (name, question, tags, bp, thinkScale) => {
          const p = plan({
            name,
            question,
            tags,
            placement: { A: { REY: bp, TAV: 'rest' } },
            groups: [{ ...plan().groups[0]!, name, thinkScale }],
          })
          expect(readPlanText(printPlan(p))).toEqual({ ok: true, plan: p })
        },
      ),
      { numRuns: 150 },
    )
  })

  it('says at which line what is wrong: an unknown key, a wrong unit, a missing field, a location that is not there', () => {
    const lines = printPlan(plan()).split('\n')
    const at = (part: string) => lines.findIndex(l => l.includes(part)) + 1
    expect(faultsOf(lines.join('\n').replace('rehearse: true', 'rehearse: true\ncolour: blue'))).toEqual([
      { line: at('rehearse') + 1, sentence: 'The plan has a field “colour” that is not known.' },
    ])
    expect(faultsOf(lines.join('\n').replace('overMs: 3000', 'overMs: 3 s'))).toEqual([
      { line: at('overMs: 3000'), sentence: expect.stringContaining('milliseconds without a unit: 3 s is 3000') },
    ])
    expect(faultsOf(lines.join('\n').replace('REY: 6000', 'REY: 12,5 %'))[0]).toEqual({
      line: at('REY: 6000'),
      sentence: expect.stringContaining('12,5 % is 1250'),
    })
    expect(faultsOf(lines.filter(l => !l.startsWith('seed')).join('\n'))[0]!.sentence).toBe(
      'The plan lacks the field “seed”.',
    )
    expect(faultsOf(lines.join('\n').replace('TAV: rest', 'OSA: rest'))).toEqual([
      { line: at('TAV: rest'), sentence: expect.stringContaining('there is no location OSA') },
    ])
    expect(faultsOf(lines.join('\n').replace('code: TAV', 'code: REY')).map(f => f.sentence)).toContain(
      'There are two locations REY.',
    )
  })

  it('of a newer release is refused by its number; of the first one is read', () => {
    const text = printPlan(plan())
    expect(faultsOf(text.replace('vornak-plan/3', 'vornak-plan/7'))[0]).toEqual({
      line: 1,
      sentence: expect.stringContaining('newer release (vornak-plan/7)'),
    })
    expect(readPlanText(text.replace('vornak-plan/3', 'vornak-plan/1'))).toEqual({ ok: true, plan: plan() })
    expect(upgradePlan({ ...plan(), schema: 'vornak-plan/1' })).toEqual(plan())
  })

  it('that is rubbish is refused in words', () => {
    for (const [text, words] of [
      ['', 'list of fields'],
      ['[1,2]', 'list of fields'],
      ['a: b: c', ''],
      ['{"__proto__": 1}', '__proto__'],
    ] as const) {
      const faults = faultsOf(text)
      expect(faults.length).toBeGreaterThan(0)
      expect(faults[0]!.sentence).toContain(words)
    }
  })
})

describe('versions', () => {
  it('held against each other name what changed, in the words of the sheet', () => {
    const before = plan({ networks: { A: { REY: { 'city-fibre': 10_000 } } } })
    const after = plan({
      question: 'More?',
      groups: [
        {
          ...before.groups[0]!,
          profile: hill(40, 3, 6, 1),
          drive: { kind: 'arrivals', spacing: 'even', mostInFlight: 9 },
        },
        { letter: 'B', name: 'Others', journeyId: 'look', profile: hill(1, 1, 1, 1) },
      ],
      locations: [{ ...before.locations[0]!, machines: 3 }],
      placement: { A: { REY: 'rest' } },
      objectives: [{ metric: 'failures', atMost: 0.01 }],
    })
    expect(changesBetween(before, before)).toEqual([])
    const said = changesBetween(before, after).map(c => `${c.what}: ${c.before} → ${c.after}`)
    expect(said).toEqual(
      expect.arrayContaining([
        'question: Does it hold? → More?',
        'Lookers: level: 0 → 20 in 3 s, hold 6 s, → 0 in 1 s → 0 → 40 in 3 s, hold 6 s, → 0 in 1 s',
        'Lookers: drive: users → arrivals, even, 9',
        'group B: not there → Others',
        'location TAV: tavira → not there',
        'REY: machines: auto × brisk-1 → 3 × brisk-1',
        'Lookers at REY: 60 % → rest',
        'Lookers at REY: network: city-fibre 100 % → none added',
        'objective: p95 of Ask at most 1 s in holds → not there',
        'objective: not there → failures at most 1 % in holds',
      ]),
    )
  })
})

describe('objectives as sentences', () => {
  const names = ['Enrol', 'Enrol in modules', 'Token']
  const codes = ['REY', 'OSA']
  const journeys = [
    { id: 'enrol', name: 'Enrol in modules' },
    { id: 'look', name: 'Browse' },
  ]
  const groups = [
    { letter: 'A', name: 'At home' },
    { letter: 'B', name: 'Browsers' },
  ]
  const series = ['CPU', 'CPU of nodes', 'connections', 'calls']
  const read = (text: string) => readObjective(text, { names, journeys, groups, codes, series })

  it.each([
    ['p95 of Enrol from OSA at most 1.8 s in holds', { metric: 'p95', step: 'Enrol', location: 'OSA', atMost: 1800 }],
    ['p95 of enrol in modules under 800 ms', { metric: 'p95', step: 'Enrol in modules', atMost: 800 }],
    ['failures at most 0,5 % over the whole load', { metric: 'failures', atMost: 0.005, window: 'whole' }],
    [
      'mean with failures of Token < 2 s in every 10 s',
      { metric: 'mean', withFailures: true, step: 'Token', atMost: 2000, window: { everyS: 10 } },
    ],
    ['throughput of Enrol at least 40/s', { metric: 'throughput', step: 'Enrol', atLeast: 40 }],
    [
      'p95 of Enrol on Enrol in modules by B from OSA at most 1 s',
      { metric: 'p95', step: 'Enrol', journeyId: 'enrol', group: 'B', location: 'OSA', atMost: 1000 },
    ],
    ['failures by browsers at most 1 %', { metric: 'failures', group: 'B', atMost: 0.01 }],
    ['users held at least 200', { metric: 'users', atLeast: 200 }],
    ['target CPU at most 80 % in holds', { metric: 'target', target: { series: 'CPU', unit: '%' }, atMost: 80 }],
    [
      'highest target cpu of nodes of node-2 (a) ≤ 95.5 % in every 10 s',
      { metric: 'target', target: { series: 'CPU of nodes', split: 'node-2 (a)', extreme: 'highest', unit: '%' }, atMost: 95.5, window: { everyS: 10 } },
    ],
    [
      'target connections at least 95 % of users over the whole load',
      { metric: 'target', target: { series: 'connections', ofUsers: true }, atLeast: 0.95, window: 'whole' },
    ],
    ['lowest target connections at least 4', { metric: 'target', target: { series: 'connections', extreme: 'lowest' }, atLeast: 4 }],
    ['target calls at least 40/s in holds', { metric: 'target', target: { series: 'calls', unit: '/s' }, atLeast: 40 }],
  ])('%s', (text, objective) => {
    expect(read(text)).toEqual({ ok: true, objective })
    expect(read(printObjective(objective as Objective, journeys))).toEqual({ ok: true, objective })
  })

  it.each([
    ['p42 of Enrol at most 1 s', 0, 'Begin with'],
    ['p95 of Nothing at most 1 s', 7, 'step or span'],
    ['p95 from XYZ at most 1 s', 9, 'location'],
    ['p95 of Enrol on Nothing at most 1 s', 16, 'a journey'],
    ['p95 by Z at most 1 s', 7, 'a group'],
    ['p95 of Enrol at most 1', 21, 'needs its unit'],
    ['failures at most 1 s', 17, 'in %'],
    ['failures at most 120 %', 17, 'more than 100'],
    ['p95 of Enrol', 12, 'at most'],
    ['p95 of Enrol at most 1 s sometimes', 24, 'not understood'],
    ['failures with failures at most 1 %', 22, 'Only times'],
    ['target Nothing at most 1', 7, 'Write one of the target’s own series: CPU, '],
    ['target CPU at most lots', 19, 'a value with its unit'],
    ['target CPU by A at most 1 %', 10, 'at most'],
  ])('%s is refused where it goes wrong', (text, at, words) => {
    expect(read(text)).toEqual({ ok: false, at, problem: expect.stringContaining(words) })
  })

  it('are printed so that they read back, whatever they are', () => {
    const limit = fc.double({ min: 0.001, max: 99_999, noNaN: true }).map(n => Number(n.toPrecision(6)))
    fc.assert(
      fc.property(
        fc.constantFrom('p50', 'p90', 'p95', 'p99', 'mean', 'throughput') as fc.Arbitrary<Objective['metric']>,
        fc.option(fc.constantFrom(...names), { nil: undefined }),
        fc.option(fc.constantFrom(...codes), { nil: undefined }),
        limit,
        fc.boolean(),
        fc.constantFrom<Objective['window']>(undefined, 'whole', { everyS: 90 }),
        (metric, step, location, value, least, window) => {
          const objective: Objective = {
            metric,
            ...(step ? { step } : {}),
            ...(location ? { location } : {}),
            ...(least ? { atLeast: value } : { atMost: value }),
            ...(window ? { window } : {}),
          }
          expect(read(printObjective(objective, journeys))).toEqual({
            ok: true,
            objective: {
              ...objective,
              ...(least ? { atLeast: expect.closeTo(value, 6) } : { atMost: expect.closeTo(value, 6) }),
            },
          })
        },
      ),
    )
  })

  it('are judged in the worst of their stretches, over the whole load, and against a least value', () => {
    const evidence = (ms: number, right = 50) => {
      const sum = new SeriesSum()
      sum.started = sum.right = right
      for (let i = 0; i < right; i++) sum.timings.right.record(ms * 1000)
      return { figures: figuresOf(sum), load: { asked: true, shortfalls: [], users: undefined } }
    }
    const level = { fromS: 0, toS: 30, users: 10 }
    const every = judge({
      objectives: [{ metric: 'p95', atMost: 500, window: { everyS: 10 } }],
      levels: [level],
      settled: true,
      evidenceFor: w => evidence(w.fromS === 10 ? 900 : 100),
    })
    expect(every.judgements).toMatchObject([{ held: false, measured: expect.closeTo(900, -1) }])
    const whole = judge({
      objectives: [{ metric: 'p95', atMost: 500, window: 'whole' }],
      levels: [level],
      settled: true,
      evidenceFor: w => evidence(w.toS === 60 ? 700 : 100),
      whole: { fromS: 0, toS: 60, users: 10 },
    })
    expect(whole.judgements).toMatchObject([{ held: false, level: { toS: 60 } }])
    expect(
      judge({
        objectives: [{ metric: 'throughput', atLeast: 2 }],
        levels: [level],
        settled: true,
        evidenceFor: () => evidence(1, 50),
      }).verdict,
    ).toBe('broken')
    expect(
      judge({
        objectives: [{ metric: 'throughput', atLeast: 2 }],
        levels: [level],
        settled: true,
        evidenceFor: () => evidence(1, 90),
      }).verdict,
    ).toBe('held')
  })
})

describe('ready-made placements', () => {
  const locations = [
    { code: 'REY', region: 'reyk' },
    { code: 'TAV', region: 'tavira' },
    { code: 'OSA', region: 'osaki' },
  ]

  it('spread evenly adds up to the whole', () => {
    expect(spreadEvenly(locations)).toEqual({ REY: 3334, TAV: 3333, OSA: 3333 })
    expect(spreadEvenly([])).toEqual({})
  })

  it('follow a table of real traffic, by code or region, counts or shares, with a heading or without', () => {
    expect(readTraffic('location,visits\nREY,520\ntavira,310\nOSA,170\nREY,0', locations)).toEqual({
      ok: true,
      shares: { REY: 5200, TAV: 3100, OSA: 1700 },
    })
    expect(readTraffic('REY;12,5 %\nTAV;87,5 %', locations)).toEqual({ ok: true, shares: { REY: 1250, TAV: 8750 } })
    expect(readTraffic('REY\t1\nTAV\t1\nOSA\t1\n', locations)).toMatchObject({ ok: true, shares: { REY: 3334 } })
  })

  it('say at which line a table is wrong', () => {
    expect(readTraffic('REY,1\nMars,3', locations)).toEqual({
      ok: false,
      problem: expect.stringContaining('Line 2: “Mars” is no location'),
    })
    expect(readTraffic('REY,1\nTAV', locations)).toEqual({ ok: false, problem: expect.stringContaining('Line 2') })
    expect(readTraffic('a,b\n', locations)).toMatchObject({ ok: false })
  })

  it('never lose or add a user: largest remainders (Hamilton’s method, from memory)', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 0, max: 100_000 }), { minLength: 3, maxLength: 3 }).filter(c => c.some(n => n > 0)),
        (counts) => {
          const read = readTraffic(counts.map((n, i) => `${locations[i]!.code},${n}`).join('\n'), locations)
          expect(read.ok && Object.values(read.shares).reduce((a, b) => a + b, 0)).toBe(10_000)
        },
      ),
    )
  })
})

describe('networks of cells', () => {
  it('are what is written, and what is left over has nothing added', () => {
    const p = plan({
      networks: { A: { REY: { 'city-fibre': 7000, 'copper-line': 2000 }, TAV: { 'weak-mobile': 10_000 } } },
    })
    expect(mixOf(p, 'A', 'REY')).toEqual([
      { network: 'city-fibre', bp: 7000 },
      { network: 'copper-line', bp: 2000 },
      { network: 'direct', bp: 1000 },
    ])
    expect(networksUsed(p)).toEqual(['city-fibre', 'copper-line', 'weak-mobile'])
    const document = runDocument({ plan: p, networks: [...PRESETS] })
    expect([...new Set(seriesOf(document).map(s => `${s.location} ${s.network}`))]).toEqual([
      '0 city-fibre',
      '0 copper-line',
      '0 direct',
      '1 weak-mobile',
    ])
  })

  it('and machines are not entangled: each machine gets its fair mix, within two users at every prefix', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 120 }),
        fc.integer({ min: 1, max: 4 }),
        fc.integer({ min: 1, max: 9999 }),
        (users, machines, bp) => {
          const p = plan({
            groups: [{ letter: 'A', name: 'A', journeyId: 'look', profile: hill(users, 1, 1, 1) }],
            placement: { A: { REY: 10_000 } },
            networks: { A: { REY: { 'city-fibre': bp } } },
          })
          const dealt = dealPlan({ plan: p }, [Array.from({ length: machines }, () => 1), []])[0]!
          const pairs = new Map<string, number>()
          for (let u = 0; u < users; u++) {
            const key = `${dealt.generatorOf[u]}/${dealt.networkOf[u]}`
            pairs.set(key, (pairs.get(key) ?? 0) + 1)
            for (let g = 0; g < machines; g++)
              for (const [k, share] of [
                [0, bp / 10_000],
                [1, 1 - bp / 10_000],
              ] as const)
                expect(Math.abs((pairs.get(`${g}/${k}`) ?? 0) - ((u + 1) * share) / machines)).toBeLessThanOrEqual(2)
          }
        },
      ),
      { numRuns: 60 },
    )
  })
})

describe('before you start', () => {
  const around = {
    target: target(),
    journeys: [journey()],
    offers: offers(),
    feeds: {},
    networks: PRESETS,
    clients: CLIENT_PRESETS,
    lengthMs: 60_000,
    now: '2026-11-25T08:00:00.000Z',
  }
  const found = (p: Plan, over: Partial<typeof around> = {}) => problemsOf(p, { ...around, ...over })
  const group = (over: object): Plan => plan({ groups: [{ ...plan().groups[0]!, ...over }] })

  it.each([
    ['no-group', plan({ groups: [], placement: {} }), 'inTheWay'],
    ['no-location', plan({ locations: [], placement: {} }), 'inTheWay'],
    ['users-not-whole', group({ profile: hill(2.5, 1, 40, 1) }), 'inTheWay'],
    ['passes-drive', group({ passes: 3, drive: { kind: 'arrivals', spacing: 'even', mostInFlight: 99 } }), 'inTheWay'],
    ['users-range', group({ drive: { kind: 'requests', fewestUsers: 9, mostUsers: 3 } }), 'inTheWay'],
    [
      'rate-ceiling',
      group({ profile: hill(500, 1, 40, 1), drive: { kind: 'requests', fewestUsers: 1, mostUsers: 3 } }),
      'costsSoundness',
    ],
    [
      'arrivals-ceiling',
      group({ profile: hill(500, 1, 40, 1), drive: { kind: 'arrivals', spacing: 'even', mostInFlight: 3 } }),
      'costsSoundness',
    ],
    ['unknown-network', plan({ networks: { A: { REY: { carrier: 5000 } } } }), 'inTheWay'],
    ['network-total', plan({ networks: { A: { REY: { 'city-fibre': 6000, 'copper-line': 6000 } } } }), 'inTheWay'],
    ['user-space-network', plan({ networks: { A: { REY: { 'city-fibre': 6000 } } } }), 'toKnow'],
    ['no-rehearsal', plan({ rehearse: false }), 'costsSoundness'],
    ['nobody-here', plan({ placement: { A: { REY: 'rest' } } }), 'toKnow'],
    [
      'all-at-once',
      group({
        profile: {
          startDelayMs: 0,
          segments: [
            { to: 20, overMs: 0 },
            { to: 20, overMs: 60_000 },
          ],
        },
      }),
      'toKnow',
    ],
  ])('%s is told', (code, p, weight) => {
    const problem = found(p).find(x => x.code === code)
    expect(problem).toMatchObject({ weight })
    expect(problem!.remedy.length).toBeGreaterThan(10)
  })

  it('tells what a remedy costs', () => {
    const few = found(
      plan({
        groups: [{ ...plan().groups[0]!, profile: hill(200, 1, 40, 1) }],
        locations: plan().locations.map(l => ({ ...l, machines: 1 })),
      }),
    ).find(p => p.code === 'few-machines')!
    // 120 users ÷ 20 per vCPU = 6 machines; 5 more at €0.06.
    expect(few).toMatchObject({ location: 'REY', price: '+€0.30/h' })
    expect(found(plan({ placement: { A: { REY: 5000 } } })).find(p => p.code === 'shares-total')).toMatchObject({
      price: '10 users more there',
    })
  })

  it('counts expected users of open drives against the approval', () => {
    const rush = group({
      profile: hill(900, 1, 60, 1),
      drive: { kind: 'arrivals', spacing: 'even', mostInFlight: 100_000 },
    })
    const held = group({ profile: hill(1, 1, 60, 1), drive: { kind: 'requests', fewestUsers: 1, mostUsers: 101 } })
    expect(
      found(held, { target: target({ approval: { ...target().approval!, mostUsers: 100 } }) }).find(
        p => p.code === 'over-approval',
      )!.sentence,
    ).toContain('101 users at peak')
    expect(
      found(rush, { target: target({ approval: { ...target().approval!, mostUsers: 100 } }) }).map(p => p.code),
    ).toContain('over-approval')
  })

  it('refuses networks and open drives for commands, which open their own connections', () => {
    const command = {
      schema: 'vornak-journey/1' as const,
      kind: 'command' as const,
      id: 'look',
      name: 'c',
      kit: 'a'.repeat(64),
      run: ['node'],
      steps: ['x'],
    } as unknown as ReturnType<typeof journey>
    const codes = found(
      plan({
        groups: [{ ...plan().groups[0]!, drive: { kind: 'arrivals', spacing: 'even', mostInFlight: 9 } }],
        networks: { A: { REY: { 'city-fibre': 6000 } } },
      }),
      { journeys: [command] },
    ).map(p => p.code)
    expect(codes).toEqual(expect.arrayContaining(['drive-command', 'network-command']))
  })

  it('takes a million users for what they are: too many for the approval and for every quota', () => {
    const codes = found(group({ profile: hill(1_000_000, 60, 60, 60) })).map(p => p.code)
    expect(codes).toEqual(expect.arrayContaining(['over-approval', 'quota']))
  })
})

describe('a location that nobody is placed at', () => {
  const two = (row: Record<string, number | 'rest'>) =>
    plan({
      locations: ['AAA', 'BBB', 'CCC'].map(code => ({
        code,
        provider: 'p',
        region: code,
        machineType: 't',
        machines: 1,
      })),
      placement: { A: row },
    })
  const after = (row: Record<string, number | 'rest'>, fix: Fix) => {
    const changed = two(row)
    applyFix(changed, fix)
    return resolveShares(changed, 'A').bp
  }

  test('gets as many as the others', () => {
    expect(after({ AAA: 'rest' }, { kind: 'spreadEvenly' })).toEqual([3334, 3333, 3333])
  })

  test('gets half of another, and nobody else’s share moves', () => {
    expect(after({ AAA: 'rest' }, { kind: 'takeFrom', from: 'AAA', to: 'CCC' })).toEqual([5000, 0, 5000])
    expect(after({ AAA: 7001, BBB: 'rest' }, { kind: 'takeFrom', from: 'AAA', to: 'CCC' })).toEqual([3501, 2999, 3500])
    expect(after({ AAA: 'rest', BBB: 'rest' }, { kind: 'takeFrom', from: 'AAA', to: 'CCC' })).toEqual([2500, 5000, 2500])
  })
})
