/** Expected values are own arithmetic, as given beside each. */
import fc from 'fast-check'
import {
  cornersOf,
  fastestStartRate,
  holdsOf,
  lengthMs,
  levelAt,
  peakOf,
  userHoursOf,
  warmUpEndMs,
  type LoadProfile,
} from '../../core/load/profile'
import { printDuration, printPhrase, readDuration, readPhrase } from '../../core/load/phrase'
import { presentAtSecondEnds, staysOf } from '../../core/load/stays'

const MIN = 60_000
const profile = (...segments: [to: number, overMs: number][]): LoadProfile => ({
  startDelayMs: 0,
  segments: segments.map(([to, overMs]) => ({ to, overMs })),
})
const presentAt = (p: LoadProfile, ms: number) =>
  staysOf(p).filter(s => s.some(x => x.startMs <= ms && ms < x.stopMs)).length
const anyProfile = fc.record({
  startDelayMs: fc.nat(5000),
  segments: fc.array(fc.record({ to: fc.nat(40), overMs: fc.oneof(fc.constant(0), fc.nat(20_000)) }), { maxLength: 6 }),
})

describe('users of a profile', () => {
  it('6 users over 15 s start one per 2.5 s', () => {
    const starts = staysOf(profile([6, 15_000], [6, 60_000])).map(s => s[0]!.startMs)
    expect(starts).toEqual([1250, 3750, 6250, 8750, 11_250, 13_750])
  })

  it('180 up in 6 min, hold 14, down in 4: 24 min and 57 user-hours, by the line and by the stays', () => {
    const p = profile([180, 6 * MIN], [180, 14 * MIN], [0, 4 * MIN])
    expect(lengthMs(p)).toBe(24 * MIN)
    expect(userHoursOf(p)).toBe(57)
    const stayed = staysOf(p)
      .flat()
      .reduce((sum, s) => sum + s.stopMs - s.startMs, 0)
    expect(stayed / 3_600_000).toBeCloseTo(57, 3)
  })

  it('2 → 300 in 75 s: 151 at half time', () => {
    expect(presentAt(profile([2, 0], [300, 75_000]), 37_500)).toBe(151)
  })

  it('12, then +2 a minute for 8 min, then +90: 118 at the top', () => {
    expect(peakOf(profile([12, 0], [28, 8 * MIN], [118, 0]))).toBe(118)
  })

  it('3,600 users over 12 s are 300 per second', () => {
    const p = profile([3600, 12_000], [3600, 1000])
    expect(fastestStartRate(p)).toBe(300)
    const present = presentAtSecondEnds(staysOf(p), 12)
    expect([...present]).toEqual(Array.from({ length: 12 }, (_, s) => 300 * (s + 1)))
  })

  it('four stairs of 4 min with one group each: stays of 16, 12, 8 and 4 min', () => {
    const stays = [0, 4, 8, 12].map(
      delay =>
        staysOf({
          startDelayMs: delay * MIN,
          segments: [
            { to: 1, overMs: 0 },
            { to: 1, overMs: (16 - delay) * MIN },
          ],
        })[0]![0]!,
    )
    expect(stays.map(s => [s.startMs / MIN, (s.stopMs - s.startMs) / MIN])).toEqual([
      [0, 16],
      [4, 12],
      [8, 8],
      [12, 4],
    ])
  })

  it('are the level rounded, at every moment that is not a corner', () => {
    fc.assert(
      fc.property(anyProfile, fc.nat(60_000), (p, ms) => {
        if (ms >= lengthMs(p) || cornersOf(p).some(c => Math.abs(c.atMs - ms) <= 1)) return
        const level = levelAt(p, ms)
        expect(Math.abs(presentAt(p, ms) - level)).toBeLessThanOrEqual(0.5 + slopeAt(p, ms))
      }),
    )
  })

  it('leave in reverse order, never overlap themselves, and stay inside the run', () => {
    fc.assert(
      fc.property(anyProfile, (p) => {
        const stays = staysOf(p)
        for (const user of stays) {
          for (const s of user)
            expect(s.startMs >= p.startDelayMs && s.stopMs <= lengthMs(p) && s.startMs < s.stopMs).toBe(true)
          for (let i = 1; i < user.length; i++) expect(user[i]!.startMs).toBeGreaterThanOrEqual(user[i - 1]!.stopMs)
        }
        const total = stays.map(u => u.reduce((sum, s) => sum + s.stopMs - s.startMs, 0))
        for (let i = 1; i < total.length; i++) expect(total[i]!).toBeLessThanOrEqual(total[i - 1]!)
      }),
    )
  })
})

/** How far the level moves in 2 ms: crossings are rounded to whole milliseconds. */
function slopeAt(p: LoadProfile, ms: number): number {
  return Math.abs(levelAt(p, ms + 1) - levelAt(p, ms - 1)) + 1e-6
}

describe('holds and warm-up', () => {
  it('are found, and neighbours at one level are one', () => {
    const p = profile([10, 1000], [10, 2000], [10, 3000], [0, 1000])
    expect(holdsOf(p)).toEqual([{ fromMs: 1000, toMs: 6000, level: 10, warmUp: false }])
    expect(
      warmUpEndMs({
        startDelayMs: 0,
        segments: [
          { to: 5, overMs: 2000, warmUp: true },
          { to: 9, overMs: 1000 },
        ],
      }),
    ).toBe(2000)
  })
})

describe('phrases', () => {
  it.each([
    [
      '0 → 340 in 4 min, hold 14 min, → 0 in 2 min',
      [
        [340, 240_000],
        [340, 840_000],
        [0, 120_000],
      ],
      0,
    ],
    [
      'wait 1 min, -> 300 in 8min, hold 9 min, to 0 at once',
      [
        [300, 480_000],
        [300, 540_000],
        [0, 0],
      ],
      60_000,
    ],
    [
      '2 → 300 in 75 s',
      [
        [2, 0],
        [300, 75_000],
      ],
      0,
    ],
    ['→ 1 200 in 1h 30 min', [[1200, 5_400_000]], 0],
  ])('“%s” is read', (text, segments, startDelayMs) => {
    expect(readPhrase(text)).toEqual({
      ok: true,
      profile: { startDelayMs, segments: segments.map(([to, overMs]) => ({ to, overMs })) },
    })
  })

  it('say at which character and why they are not understood', () => {
    expect(readPhrase('→ 10 in 4 min, hodl 3 s')).toMatchObject({
      ok: false,
      at: 15,
      problem: expect.stringContaining('hodl 3 s'),
    })
    expect(readPhrase('hold 3 s')).toMatchObject({ ok: false, problem: expect.stringContaining('Nobody to hold') })
    expect(readPhrase('→ 10')).toMatchObject({ ok: false, problem: expect.stringContaining('how fast') })
    expect(readPhrase('→ 10 in soon')).toMatchObject({ ok: false, problem: expect.stringContaining('not a duration') })
    expect(readPhrase('→ 99999999 at once')).toMatchObject({
      ok: false,
      problem: expect.stringContaining('more than one plan takes'),
    })
    expect(readPhrase('→ 5 in 3 s, 9 → 4 in 2 s')).toMatchObject({ ok: false, problem: 'The level here is 5, not 9' })
    expect(readPhrase('')).toMatchObject({ ok: false })
    expect(readPhrase('→ 5 in 3 s,,')).toMatchObject({ ok: false })
  })

  it('printed and read again are the same profile', () => {
    fc.assert(
      fc.property(anyProfile, (p) => {
        const written = printPhrase(p)
        if (p.segments.length === 0) return
        const reading = readPhrase(written)
        if (!reading.ok) throw new Error(`${written}: ${reading.problem}`)
        expect(staysOf(reading.profile)).toEqual(staysOf(p))
      }),
    )
  })

  it('never break on rubbish', () => {
    fc.assert(
      fc.property(fc.string(), (text) => {
        readPhrase(text)
      }),
    )
  })

  it('durations are read and printed', () => {
    expect(readDuration('4 min 30 s')).toBe(270_000)
    expect(readDuration('1,5 h')).toBe(5_400_000)
    expect(readDuration('soon')).toBeUndefined()
    expect(printDuration(270_000)).toBe('4 min 30 s')
    expect(printDuration(0)).toBe('0 s')
  })
})
