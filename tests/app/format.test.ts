/** What people read: figures, moments, shares as typed. */
import fc from 'fast-check'
import { wishAgain } from '../../app/format/capacity'
import { basisPoints, bytes, count, euro, rate, share, time, timeText } from '../../core/values/said-figures'
import { dayTime, duration, runTime } from '../../app/format/moments'
import { pathText, readThink, thinkText } from '../../app/format/journeys'
import { printCell, readCell } from '../../app/format/cells'
import { printMix, readMix } from '../../app/format/mixes'
import { readShare } from '../../app/format/shares'
import type { ThinkTime } from '../../core/journey/journey'

describe('a capacity that is to be known anew', () => {
  const of = {
    journeyId: 'enrol',
    provider: 'nimbral',
    machineType: 'brisk-2',
    network: 'dsl',
    target: 'built-in sink',
  }
  it('is asked for as it was; where nothing was quiet, every second counts', () => {
    expect(wishAgain(of)).toEqual({
      journeys: ['enrol'],
      provider: 'nimbral',
      types: ['brisk-2'],
      networks: ['dsl'],
      sink: true,
    })
    expect(wishAgain({ ...of, target: 'Enrolment portal', why: 'noise' })).toMatchObject({ sink: false })
    expect(wishAgain({ ...of, why: 'stolen' })).toMatchObject({ mostStolen: 1 })
  })
})

describe('pauses as they are typed', () => {
  it.each<[string, ThinkTime | undefined]>([
    ['1.5', { kind: 'fixed', ms: 1500 }],
    ['1,5 s', { kind: 'fixed', ms: 1500 }],
    ['1 to 3', { kind: 'uniform', fromMs: 1000, toMs: 3000 }],
    ['1–3 s', { kind: 'uniform', fromMs: 1000, toMs: 3000 }],
    ['2 ± 0.5', { kind: 'normal', meanMs: 2000, deviationMs: 500 }],
    ['about 2, ± 0.5', { kind: 'normal', meanMs: 2000, deviationMs: 500 }],
    ['none', { kind: 'none' }],
    ['', { kind: 'none' }],
    ['0', { kind: 'none' }],
    ['soon', undefined],
    ['3 to 1', undefined],
    ['-1', undefined],
  ])('“%s”', (text, think) => expect(readThink(text)).toEqual(think))

  it('are read back as they are shown', () => {
    const ms = fc.integer({ min: 1, max: 60_000 }).map(n => n * 10)
    fc.assert(
      fc.property(
        fc.oneof(
          fc.record({ kind: fc.constant('fixed' as const), ms }),
          fc
            .tuple(ms, ms)
            .map(([a, b]) => ({ kind: 'uniform' as const, fromMs: Math.min(a, b), toMs: Math.max(a, b) })),
          fc.record({ kind: fc.constant('normal' as const), meanMs: ms, deviationMs: ms }),
        ),
        think => expect(readThink(thinkText(think))).toEqual(think),
      ),
    )
  })

  it('and addresses with their query', () => {
    expect(
      pathText({
        url: '/a',
        query: [
          ['b', '1'],
          ['c', '{{d}}'],
        ],
      }),
    ).toBe('/a?b=1&c={{d}}')
  })
})

describe('figures', () => {
  it('carry thin spaces in thousands and a unit where they have one', () => {
    expect(count(1_234_567)).toBe('1\u2009234\u2009567')
    expect(count(999.6)).toBe('1\u2009000')
    expect([rate(0), rate(3.26), rate(41.2)]).toEqual(['0', '3.3', '41'])
    expect([share(undefined), share(0), share(0.00423), share(1)]).toEqual(['–', '0 %', '0.42 %', '100 %'])
    expect(basisPoints(1250)).toBe('12.5 %')
    expect([bytes(12), bytes(1500), bytes(2.5e6), bytes(3e9)]).toEqual(['12 B', '1.5 kB', '2.5 MB', '3.0 GB'])
  })

  it('show times in the unit that reads best, and a dash for what was not measured', () => {
    expect([time(0.5), time(45.67), time(312.4), time(1234), time(12_345)].map(t => t.join(' '))).toEqual([
      '0.50 ms',
      '45.7 ms',
      '312 ms',
      '1.23 s',
      '12.3 s',
    ])
    expect([timeText(undefined), timeText(null)]).toEqual(['–', '–'])
  })

  it('do not hide small amounts of money', () => {
    expect([euro(0), euro(0.012), euro(0.06), euro(0.84), euro(12)]).toEqual([
      '€0.00',
      '€0.012',
      '€0.06',
      '€0.84',
      '€12.00',
    ])
  })
})

describe('moments', () => {
  it('count run seconds from the start, also before it and past the hour', () => {
    expect([runTime(0), runTime(504.9), runTime(-3), runTime(3725)]).toEqual(['+00:00', '+08:24', '−00:03', '+1:02:05'])
  })

  it('say durations in words', () => {
    expect([
      duration(0),
      duration(59_400),
      duration(60_000),
      duration(2_480_000),
      duration(3_600_000 * 2 + 60_000),
      duration(-5),
    ]).toEqual(['0 s', '59 s', '1 min', '41 min 20 s', '2 h 1 min', '0 s'])
  })

  it('name the day only when it is not today', () => {
    const now = new Date(2026, 10, 25, 12, 0).getTime()
    expect(dayTime(new Date(2026, 10, 25, 7, 5).getTime(), now)).toBe('07:05')
    expect(dayTime(new Date(2026, 10, 24, 15, 3).getTime(), now)).toBe('Tue 24 Nov 15:03')
  })
})

describe('shares as typed', () => {
  it.each([
    ['40', 4000],
    ['12,5', 1250],
    ['12.345 %', 1235],
    ['rest', 'rest'],
    ['R', 'rest'],
    ['', 0],
    ['–', 0],
    ['100', 10_000],
  ])('“%s” is %s', (text, expected) => {
    expect(readShare(text)).toBe(expected)
  })

  it.each(['101', '-1', 'forty', '4 0', '1e9', 'NaN', 'Infinity'])('“%s” is none', (text) => {
    expect(readShare(text)).toBeUndefined()
  })

  it('never become anything but whole basis points, whatever is typed', () => {
    fc.assert(
      fc.property(fc.string(), (text) => {
        const s = readShare(text)
        return s === undefined || s === 'rest' || (Number.isInteger(s) && s >= 0 && s <= 10_000)
      }),
    )
  })
})

describe('cells as typed', () => {
  const networks = [
    { id: 'city-fibre', name: 'city fibre' },
    { id: 'copper-line', name: 'copper line' },
    { id: 'commuter-mobile', name: 'commuter mobile' },
  ]
  const read = (text: string) => readCell(text, networks)

  it('are a share, and networks behind it', () => {
    expect(read('40')).toEqual({ ok: true, share: 4000, mix: undefined })
    expect([read('12,5'), read('12.5 %')].map(r => r.ok && r.share)).toEqual([1250, 1250])
    expect(read('rest city fibre')).toEqual({ ok: true, share: 'rest', mix: { 'city-fibre': 10_000 } })
    expect(read('40 city-fibre 70, copper-line 30')).toEqual({
      ok: true,
      share: 4000,
      mix: { 'city-fibre': 7000, 'copper-line': 3000 },
    })
    expect(read('40 % city 62,5, copper')).toEqual({
      ok: true,
      share: 4000,
      mix: { 'city-fibre': 6250, 'copper-line': 3750 },
    })
    expect(read('40 direct')).toEqual({ ok: true, share: 4000, mix: {} })
    expect(read('')).toEqual({ ok: true, share: 0, mix: undefined })
  })

  it('say what is wrong with them', () => {
    for (const [text, words] of [
      ['-5', 'less than nothing'],
      ['130', 'more than the whole'],
      ['many', 'no share'],
      ['40 mars', 'no network “mars”'],
      ['40 c', 'no network “c”'],
      ['40 city-fibre 70, copper-line 50', 'more than 100 %'],
    ] as const) {
      expect(read(text)).toEqual({ ok: false, problem: expect.stringContaining(words) })
    }
  })

  it('know mixes of anything by names and what they begin with; a name alone takes what is left', () => {
    const known = [{ id: 'phone-app', name: 'phone app' }, { id: 'desktop', name: 'Desktop browser' }]
    expect(readMix('phone 62,5; desktop'.replace(';', ','), known, 'client')).toEqual({
      ok: true,
      mix: { 'phone-app': 6250, desktop: 3750 },
    })
    expect(readMix('', known, 'client')).toEqual({ ok: true, mix: {} })
    expect(readMix('Desktop browser 30 + phone-app 80', known, 'client')).toEqual({
      ok: false,
      problem: 'The clients add up to more than 100 %',
    })
    expect(readMix('tablet 10', known, 'client')).toEqual({
      ok: false,
      problem: 'There is no client “tablet”: phone-app, desktop',
    })
  })

  it('print as they are typed', () => {
    expect(printCell({ share: 4000, mix: { 'city-fibre': 7000, 'copper-line': 3000 } })).toBe(
      '40 city-fibre 70, copper-line 30',
    )
    expect([
      printCell({ share: 'rest', mix: {} }),
      printCell({ share: 0, mix: { 'city-fibre': 10_000 } }),
      printMix({ 'city-fibre': 10_000 }),
    ]).toEqual(['rest', '', 'city-fibre'])
  })
})
