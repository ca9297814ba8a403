/**
 * The three drives: arrivals against the exponential, a held rate against a simulated target, shapes and phrases
 * against arithmetic.
 */
import fc from 'fast-check'
import { arrivalMoments, arrivalsIn, MOST_ARRIVALS } from '../../core/load/arrivals'
import { printPhrase, readPhrase } from '../../core/load/phrase'
import { fastestStartRate, lengthMs, levelAt, peakOf, userHoursOf, type LoadProfile } from '../../core/load/profile'
import { seededRandom } from '../../core/random/seeded'
import { RateEstimate, usersAsked, wholeUsers } from '../../core/load/held-rate'
import { staysOf } from '../../core/load/stays'
import { expectedPass, expectedWork, planInUsers, profileInUsers } from '../../core/plan/expected'
import { dealtIn, partOfSlice, sliceFor, usersPerCell } from '../../core/run/slice'
import { hill, journey, plan, runDocument, step } from '../build/plans'

const profileOf = (text: string, rate = false): LoadProfile => {
  const reading = readPhrase(text, { rate })
  if (!reading.ok) throw new Error(reading.problem)
  return reading.profile
}
const problemOf = (text: string, rate = false) => {
  const reading = readPhrase(text, { rate })
  return reading.ok ? undefined : ([reading.at, reading.problem] as const)
}

describe('worked levels', () => {
  it('of the design come out: own arithmetic', () => {
    // 6 users over 15 s: one per 2.5 s.
    const six = staysOf(profileOf('→ 6 in 15 s, hold 1 min')).map(s => s[0]!.startMs)
    expect(six.slice(1).map((at, i) => at - six[i]!)).toEqual([2500, 2500, 2500, 2500, 2500])
    // 180 users up in 6 min, hold 14, down in 4: 24 min and 57 user-hours.
    const up = profileOf('→ 180 in 6 min, hold 14 min, → 0 in 4 min')
    expect([lengthMs(up) / 60_000, userHoursOf(up)]).toEqual([24, 57])
    // From 12, +2 a minute for 8 min, then +90: 118.
    expect(peakOf(profileOf('→ 12 at once, +2 a minute for 8 min, +90 at once, hold 1 min'))).toBe(118)
    // 8 generators × 450 users over 12 s: 3,600 at 300/s.
    expect(fastestStartRate(profileOf('→ 3600 in 12 s'))).toBe(300)
    // 2 → 300 in 75 s: 151 at half time.
    expect(levelAt(profileOf('2 → 300 in 75 s'), 37_500)).toBe(151)
    // Four stairs of 4 min, one group each: starts 0/4/8/12, stays 16/12/8/4 min.
    const stairs = [0, 4, 8, 12].map(
      start => staysOf(profileOf(`${start ? `wait ${start} min, ` : ''}→ 1 at once, hold ${16 - start} min`))[0]![0]!,
    )
    expect(stairs.map(s => [s.startMs / 60_000, (s.stopMs - s.startMs) / 60_000])).toEqual([
      [0, 16],
      [4, 12],
      [8, 8],
      [12, 4],
    ])
  })
})

describe('phrases', () => {
  it('of shapes write segments', () => {
    expect(printPhrase(profileOf('stairs → 80 in 4 steps of 1 min'))).toBe(
      '→ 20 at once, hold 1 min, → 40 at once, hold 1 min, → 60 at once, hold 1 min, → 80 at once, hold 1 min',
    )
    expect(printPhrase(profileOf('stairs → 30 in 3 steps of 1 min with 10 s ramps'))).toBe(
      '0 → 10 in 10 s, hold 50 s, → 20 in 10 s, hold 50 s, → 30 in 10 s, hold 50 s',
    )
    expect(printPhrase(profileOf('→ 40 in 30 s, burst → 120 for 20 s with 5 s ramps'))).toBe(
      '0 → 40 in 30 s, → 120 in 5 s, hold 20 s, → 40 in 5 s',
    )
    expect(printPhrase(profileOf('soak 200 for 8 h with 10 min ramps'))).toBe(
      '0 → 200 in 10 min, hold 8 h, → 0 in 10 min',
    )
    const wave = profileOf('→ 60 in 30 s, wave ± 30 every 4 min for 12 min')
    expect([
      lengthMs(wave),
      peakOf(wave),
      levelAt(wave, 30_000 + 60_000),
      levelAt(wave, 30_000 + 180_000),
      wave.segments.at(-1)!.to,
    ]).toEqual([750_000, 90, 90, 30, 60])
  })

  it('say where and why they are not understood', () => {
    expect(problemOf('→ 40 in 30 s, hodl 1 min')).toEqual([
      14,
      expect.stringContaining('“hodl 1 min” is not understood'),
    ])
    expect(problemOf('→ 40 in 30 parsecs')).toEqual([8, expect.stringContaining('“30 parsecs” is not a duration')])
    expect(problemOf('→ 40 in 30 s, hold 0 s')).toEqual([19, expect.stringContaining('A hold of no length')])
    expect(problemOf('→ 20 in 10 s, wave ± 30 every 1 min for 5 min')).toEqual([
      14,
      expect.stringContaining('dips below zero'),
    ])
    expect(problemOf('→ 20 in 10 s, −30 at once')).toEqual([14, expect.stringContaining('below zero, to -10')])
    expect(problemOf('→ 1500000 in 10 s')).toEqual([2, expect.stringContaining('more than one plan takes')])
    expect(problemOf('→ 12,5 in 10 s')).toEqual([2, expect.stringContaining('users are whole')])
    expect(problemOf('→ 9 in 10 s, wave ± 3 every 1 s for 1 h')![1]).toContain('a profile takes 500')
    expect(problemOf('soak 5 for 200 h')![1]).toContain('Longer than a week')
    expect(problemOf('stairs → 8 in 2 steps of 5 s with 5 s ramps')![1]).toContain('shorter than the step')
  })

  it('of rates may have decimals, in either notation, with or without their unit', () => {
    expect(profileOf('0 → 2,5/s in 10 s, hold 1 min', true).segments[0]).toEqual({ to: 2.5, overMs: 10_000 })
    expect(profileOf('→ 0.5 at once, +1.5/s in 3 s', true).segments).toEqual([
      { to: 0.5, overMs: 0 },
      { to: 2, overMs: 3000 },
    ])
  })

  it('print back what they read, whatever they were', () => {
    const segment = fc.record(
      { to: fc.integer({ min: 0, max: 5000 }), overMs: fc.integer({ min: 0, max: 5_000_000 }) },
      { requiredKeys: ['to', 'overMs'] },
    )
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 100_000 }),
        fc.array(segment, { minLength: 1, maxLength: 12 }),
        (startDelayMs, segments) => {
          // A hold of nobody at the beginning is a start delay.
          const profile = { startDelayMs, segments: segments.filter((s, i) => !(i === 0 && s.to === 0)) }
          fc.pre(profile.segments.length > 0 && profile.segments[0]!.to > 0)
          expect(profileOf(printPhrase(profile))).toEqual(profile)
        },
      ),
      { numRuns: 200 },
    )
  })
})

describe('arrivals', () => {
  const minute = profileOf('→ 20 at once, hold 10 min', true)

  it('spaced evenly come 1 ÷ rate apart, and as many as the area', () => {
    const moments = arrivalMoments(minute, 'even', 1)
    expect(moments.length).toBe(12_000)
    expect([...moments.slice(0, 3)]).toEqual([25, 75, 125])
    // Up a ramp the count follows t².
    const ramp = arrivalMoments(profileOf('→ 10 in 20 s', true), 'even', 1)
    expect(ramp.length).toBe(100)
    for (const n of [10, 40, 90]) expect(ramp[n]! / 1000).toBeCloseTo(Math.sqrt((n + 0.5) * 4), 2)
  })

  it('as a Poisson process have exponential gaps: Kolmogorov and Smirnov at 1 %, and the chi-square of counts per second (Kleinrock 1975)', () => {
    const moments = arrivalMoments(minute, 'poisson', 7)
    const gaps = [...moments]
      .slice(1)
      .map((at, i) => at - moments[i]!)
      .sort((a, b) => a - b)
    const n = gaps.length
    // Whole ms widen each step of the empirical distribution by half a ms at most.
    const distance = gaps.reduce(
      (most, gap, i) =>
        Math.max(
          most,
          Math.abs(1 - Math.exp(-(gap + 0.5) * 0.02) - (i + 1) / n),
          Math.abs(1 - Math.exp(-(gap + 0.5) * 0.02) - i / n) - 0.02,
        ),
      0,
    )
    expect(distance).toBeLessThan(1.63 / Math.sqrt(n) + 0.01)
    // Index of dispersion of counts per second: variance ÷ mean of a Poisson process is 1; (n − 1)·D is chi-square with
    // 599 degrees: 1 % either side is 0.86 to 1.15.
    const counts = Array.from(
      { length: 600 },
      (_, s) => moments.filter(at => at >= s * 1000 && at < (s + 1) * 1000).length,
    )
    const average = counts.reduce((a, b) => a + b, 0) / 600
    const dispersion = counts.reduce((sum, c) => sum + (c - average) ** 2, 0) / 599 / average
    expect(dispersion).toBeGreaterThan(0.85)
    expect(dispersion).toBeLessThan(1.16)
    // 12,000 ± 3 σ.
    expect(Math.abs(moments.length - 12_000)).toBeLessThan(3 * Math.sqrt(12_000))
  })

  it('follow a rate that changes, and rise', () => {
    const profile = profileOf('→ 50 in 1 min, hold 1 min, → 0 in 1 min', true)
    const moments = arrivalMoments(profile, 'poisson', 3)
    expect(arrivalsIn(profile)).toBe(6000)
    const inRamp = moments.filter(at => at < 60_000).length
    expect(Math.abs(inRamp - 1500)).toBeLessThan(3 * Math.sqrt(1500))
    for (let i = 1; i < moments.length; i++) expect(moments[i]!).toBeGreaterThanOrEqual(moments[i - 1]!)
  })

  it('are refused when they are too many', () => {
    expect(() => arrivalMoments(profileOf('→ 2000 at once, hold 2 h', true), 'even', 1)).toThrow(String(MOST_ARRIVALS))
  })

  it('are dealt whole: every pass has one generator and one worker, and shares hold at every prefix', () => {
    const group = {
      letter: 'A',
      name: 'A',
      journeyId: 'look',
      profile: profileOf('→ 30 in 5 s, hold 10 s', true),
      drive: { kind: 'arrivals' as const, spacing: 'poisson' as const, mostInFlight: 10 },
    }
    const document = runDocument({
      plan: plan({
        groups: [group],
        placement: { A: { REY: 7000, TAV: 'rest' } },
        networks: { A: { REY: { 'city-fibre': 5000 } } },
      }),
    })
    const generators = [[1, 1], [1]]
    const slices = generators.flatMap((g, location) =>
      g.map((_, generator) => sliceFor(document, generators, { location, generator })),
    )
    const all = slices.flatMap(s => s.arrivals.flatMap(a => [...a.numbers]))
    expect([...all].sort((a, b) => a - b)).toEqual(
      Array.from({ length: dealtIn(group, document.plan.seed) }, (_, i) => i + 1),
    )
    const first = slices[0]!
    const parts = [0, 1, 2].map(w => partOfSlice(first, w, 3))
    expect(parts.flatMap(p => [...p.arrivals[0]!.numbers]).sort((a, b) => a - b)).toEqual([
      ...first.arrivals[0]!.numbers,
    ])
    const north = new Set(slices.slice(0, 2).flatMap(s => s.arrivals.flatMap(a => [...a.numbers])))
    for (let n = 1, here = 0; n <= all.length; n++) {
      if (north.has(n)) here++
      expect(Math.abs(here - n * 0.7)).toBeLessThan(1)
    }
    expect(first.arrivals[0]!.kinds.map(k => k.network)).toEqual(['city-fibre', 'direct'])
  })
})

describe('a held rate', () => {
  interface Held {
    profile: LoadProfile
    thinkMs: number
    answerMs: number
    guessS: number
    seed: number
    mostUsers?: number
    capacity?: number
    awayS?: [number, number]
    lostS?: number
  }
  /**
   * Users of a closed model: each asks, is answered, thinks. What is known is two seconds old, as in a run; every
   * generator goes on with what it was told last.
   */
  function hold({
    profile,
    thinkMs,
    answerMs,
    guessS,
    seed,
    mostUsers = 500,
    capacity = Number.POSITIVE_INFINITY,
    awayS = [-1, -1],
    lostS = Number.POSITIVE_INFINITY,
  }: Held) {
    const random = seededRandom(seed)
    const bounds = { fewestUsers: 0, mostUsers }
    const estimate = new RateEstimate(guessS, bounds)
    const users = Array.from({ length: mostUsers }, () => ({ isHere: false, nextS: 0 }))
    const lengthS = lengthMs(profile) / 1000
    const [sent, asked] = [new Array<number>(lengthS).fill(0), new Array<number>(lengthS).fill(0)]
    let betweenS = guessS
    let cannotAt = -1
    const wanted = (s: number) => levelAt(profile, s * 1000 + 500)
    for (let ms = 0; ms < lengthS * 1000; ms += 50) {
      const s = Math.floor(ms / 1000)
      if (ms % 1000 === 0) {
        asked[s] = usersAsked(wanted(s), betweenS, bounds)
        if (s >= 2 && (s < awayS[0] || s >= awayS[1])) {
          estimate.note(wanted(s - 2), asked[s - 2]!, sent[s - 2]!)
          betweenS = estimate.betweenS
          if (estimate.cannotReach && cannotAt < 0) cannotAt = s
        }
      }
      const whole = wholeUsers(levelAt(profile, ms), betweenS, bounds, ms / 1000)
      users.forEach((user, n) => {
        const should = n < whole && !(ms / 1000 >= lostS && n % 3 === 0)
        if (should && !user.isHere) user.nextS = ms / 1000 + (random() * thinkMs) / 1000
        user.isHere = should
        while (user.isHere && user.nextS <= ms / 1000) {
          if (sent[s]! < capacity) sent[s]!++
          user.nextS += (thinkMs * (0.5 + random()) + answerMs) / 1000
        }
      })
    }
    const got = (from: number, to: number) => sent.slice(from, to).reduce((a, b) => a + b, 0)
    const wish = (from: number, to: number) =>
      Array.from({ length: to - from }, (_, i) => wanted(from + i)).reduce((a, b) => a + b, 0)
    return { sent, asked, cannotAt, got, wish, lengthS }
  }
  /** The larger of 5 % and three standard deviations of a Poisson count. */
  const within = (got: number, wish: number) => Math.abs(got - wish) <= Math.max(0.05 * wish, 3 * Math.sqrt(wish))

  it.each<[string, Omit<Held, 'seed'>]>([
    ['a ramp of 10 s', { profile: hill(200, 10, 60, 0), thinkMs: 1000, answerMs: 20, guessS: 1.1 }],
    ['the last second, at 20 a second', { profile: hill(20, 0, 30, 0), thinkMs: 500, answerMs: 20, guessS: 0.6 }],
    [
      'two a second, which is less than a user',
      { profile: hill(2, 0, 120, 0), thinkMs: 200, answerMs: 20, guessS: 0.3 },
    ],
    ['five a second with long pauses', { profile: hill(5, 20, 120, 0), thinkMs: 5000, answerMs: 20, guessS: 5.1 }],
    [
      '13 s without a controller, in the middle of a ramp',
      { profile: hill(183, 40, 40, 0), thinkMs: 700, answerMs: 30, guessS: 0.8, awayS: [15, 28] },
    ],
  ])(
    'holds %s within the larger of 5 %% and 3 σ, in the ramp, in any 10 s after it, and in the last second',
    (_, held) => {
      const rampS = held.profile.segments[0]!.overMs / 1000
      for (let seed = 1; seed <= 10; seed++) {
        const { got, wish, lengthS } = hold({ ...held, seed })
        if (rampS > 0)
          expect([seed, got(0, rampS), wish(0, rampS), within(got(0, rampS), wish(0, rampS))]).toEqual([
            seed,
            expect.any(Number),
            expect.any(Number),
            true,
          ])
        for (let s = rampS + 5; s + 10 <= lengthS; s += 5)
          expect([seed, s, got(s, s + 10), within(got(s, s + 10), wish(s, s + 10))]).toEqual([
            seed,
            s,
            expect.any(Number),
            true,
          ])
        expect(within(got(lengthS - 2, lengthS), wish(lengthS - 2, lengthS))).toBe(true)
      }
    },
  )

  it('comes back within 15 s when a third of its users is lost', () => {
    const { got, wish } = hold({
      profile: hill(200, 0, 90, 0),
      thinkMs: 1000,
      answerMs: 20,
      guessS: 1.1,
      seed: 3,
      lostS: 40,
    })
    for (let s = 55; s < 80; s += 5) expect(within(got(s, s + 10), wish(s, s + 10))).toBe(true)
  })

  it('that cannot be reached ends at the ceiling and is told, once the target is full too', () => {
    const short = hold({ profile: hill(100, 0, 60, 0), thinkMs: 1000, answerMs: 20, guessS: 1, seed: 1, mostUsers: 50 })
    expect([short.asked.at(-1), short.cannotAt]).toEqual([50, expect.any(Number)])
    expect(short.cannotAt).toBeGreaterThan(10)
    const full = hold({
      profile: hill(60, 0, 120, 0),
      thinkMs: 1000,
      answerMs: 20,
      guessS: 1,
      seed: 1,
      mostUsers: 300,
      capacity: 30,
    })
    expect(full.asked.at(-1)).toBe(300)
    expect(full.cannotAt).toBeGreaterThan(0)
  })

  it('of nothing asks for nobody; of a part of a user, for one in that part of the time', () => {
    const bounds = { fewestUsers: 5, mostUsers: 100 }
    expect([usersAsked(0, 1, bounds), usersAsked(1, 1, bounds), usersAsked(500, 1, bounds)]).toEqual([0, 5, 100])
    const half = Array.from({ length: 400 }, (_, s) => wholeUsers(1, 0.3, { fewestUsers: 0, mostUsers: 9 }, s))
    expect(half.reduce((a, b) => a + b, 0) / 400).toBeCloseTo(0.3, 1)
    expect(new Set(half)).toEqual(new Set([0, 1]))
  })
})

describe('expectations', () => {
  const slow = journey({
    id: 'slow',
    opening: [step({ name: 'in', think: { kind: 'none' } })],
    round: [
      step({ name: 'a', think: { kind: 'fixed', ms: 1900 } }),
      step({ name: 'b', think: { kind: 'fixed', ms: 900 } }),
    ],
  })

  it('are N = λ·W for arrivals (Little 1961): 5 a second, each 3.1 s with its opening', () => {
    const drive = { kind: 'arrivals' as const, spacing: 'even' as const, mostInFlight: 99 }
    expect(expectedPass(slow, { drive })).toEqual({ ms: 3100, requests: 3 })
    expect(
      peakOf(profileInUsers({ letter: 'A', name: 'A', journeyId: 'slow', profile: hill(5, 1, 8, 1), drive }, slow)),
    ).toBe(Math.ceil(5 * 3.1))
  })

  it('are rate × pass ÷ requests for a held rate, within floor and ceiling, and scale with think times', () => {
    const users = (level: number, over = {}) =>
      peakOf(
        profileInUsers(
          {
            letter: 'A',
            name: 'A',
            journeyId: 'slow',
            profile: hill(level, 1, 8, 1),
            drive: { kind: 'requests', fewestUsers: 3, mostUsers: 40 },
            ...over,
          },
          slow,
        ),
      )
    expect([users(10), users(1), users(100), users(10, { thinkScale: 0.5 })]).toEqual([15, 3, 40, 8])
  })

  it('of passes are the area ÷ pass time, fewer where users leave after some', () => {
    const group = { letter: 'A', name: 'A', journeyId: 'slow', profile: hill(10, 0, 300, 0) }
    expect(expectedWork(group, slow).passes).toBeCloseTo(3000 / 3)
    expect(expectedWork({ ...group, passes: 4 }, slow)).toEqual({ passes: 40, requests: 80 })
  })

  it('leave a plan of users as it is, and count cells of any drive in users', () => {
    const p = plan()
    expect(planInUsers(p, [])).toBe(p)
    const open = plan({
      groups: [
        {
          letter: 'A',
          name: 'A',
          journeyId: 'slow',
          profile: hill(5, 1, 8, 1),
          drive: { kind: 'arrivals', spacing: 'even', mostInFlight: 99 },
        },
      ],
      placement: { A: { REY: 'rest', TAV: 'rest' } },
    })
    expect(usersPerCell({ plan: planInUsers(open, [slow]) })).toEqual([[8, 8]])
  })
})
