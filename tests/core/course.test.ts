/**
 * Courses of staffs, held against the plain samples they were made of, bin by bin: counted, and percentiles by nearest
 * rank (Hyndman and Fan 1996, definition 1) to the width of a histogram's bin, 1/1,024 of the value.
 */
import { seededRandom } from '../../core/random/seeded'
import { FAILURE_KINDS, OWN_FAULTS } from '../../core/journey/failure-kinds'
import type { SecondFigures } from '../../core/merge/second-figures'
import { sumIn, type SeriesSum } from '../../core/merge/series-sum'
import { binsFor, coursesOf, type AddWindow } from '../../core/result/course'
import { DIMENSIONS, valueIn, type Dimension } from '../../core/result/slices'
import type { StaffWish } from '../../core/result/staff'
import { slicedRun as document, slicedSeries as series } from '../build/sliced-run'

interface Sample {
  second: number
  series: number
  ms: number
  /** Undefined: right. */
  failure: string | undefined
}

const LENGTH_S = 25
const numbers = series.flatMap((of, number) => (of ? [number] : []))

function sampled(seed: number): { samples: Sample[], addWindow: AddWindow } {
  const random = seededRandom(seed)
  const samples: Sample[] = []
  const seconds = Array.from({ length: LENGTH_S }, () => new Map<number, SeriesSum>())
  for (let second = 0; second < LENGTH_S; second++) {
    for (const number of numbers) {
      for (let n = Math.floor(random() * 6); n > 0; n--) {
        const failure = random() < 0.2 ? FAILURE_KINDS[Math.floor(random() * FAILURE_KINDS.length)] : undefined
        const ms = Math.exp(random() * 8)
        samples.push({ second, series: number, ms, failure })
        const sum = sumIn(seconds[second]!, number)
        sum.started++
        if (failure) sum.failures[FAILURE_KINDS.indexOf(failure)]!++
        else sum.right++
        sum.timings[failure ? 'failed' : 'right'].record(ms * 1000)
      }
    }
  }
  const addWindow: AddWindow = (fromS, toS, into, timings) => {
    for (const sums of seconds.slice(fromS, toS)) for (const [n, sum] of sums) into(n)?.add(sum, timings)
  }
  return { samples, addWindow }
}

const told = (addWindow: AddWindow, wishes: StaffWish[], binS: number) =>
  coursesOf(document, { addWindow, secondsIn: () => [] }, wishes, { fromS: 0, toS: LENGTH_S, binS }, series)
const has = (d: Dimension, value: string) => (s: Sample) => valueIn(d, series[s.series]!, document) === value
const isRequest = (s: Sample) => series[s.series]!.kind === 'request'
const percentile = (ms: number[], p: number) => ms.sort((a, b) => a - b)[Math.max(0, Math.ceil(p * ms.length) - 1)]
const times = (of: Sample[]) => of.filter(s => !s.failure).map(s => s.ms)
const expectNear = (told: number | null, plain: number | undefined) => {
  if (plain === undefined) return expect(told).toBeNull()
  expect(Math.abs(told! - plain)).toBeLessThanOrEqual(Math.max(0.002, plain / 1000))
}

it.each([1, 10])('p95 by every dimension is what plain counting says, in bins of %d s', (binS) => {
  const { samples, addWindow } = sampled(1)
  const wishes = DIMENSIONS.map((split): StaffWish => ({ statistics: ['p95'], measure: 'answered', split }))
  const courses = told(addWindow, wishes, binS)
  wishes.forEach(({ split }, w) => {
    const { lines } = courses[w]!
    expect(lines.length).toBeGreaterThan(1)
    for (const { value, values } of lines) {
      expect(values).toHaveLength(Math.ceil(LENGTH_S / binS))
      values.forEach((one, bin) => {
        const there = samples.filter(s => Math.floor(s.second / binS) === bin)
          .filter(has(split as Dimension, value))
          .filter(s => split === 'step' || isRequest(s))
        expectNear(one, percentile(times(there), 0.95))
      })
    }
  })
})

it('counts are per second, also in a last bin that is shorter; shares leave out what generators did themselves', () => {
  const { samples, addWindow } = sampled(2)
  const only = { group: ['A'], location: ['BBB'] }
  const wishes: StaffWish[] = [
    { statistics: ['perSecond'], measure: 'sent', only },
    { statistics: ['share'], measure: 'failed', only },
    { statistics: ['perSecond'], measure: 'failed', only, split: 'kind' },
    { statistics: ['p50', 'largest'], measure: 'failedIn', only },
  ]
  const courses = told(addWindow, wishes, 10)
  const bins = [[0, 10], [10, 20], [20, 25]] as const
  bins.forEach(([from, to], bin) => {
    const there = samples.filter(s => s.second >= from && s.second < to && isRequest(s))
      .filter(has('group', 'A')).filter(has('location', 'BBB'))
    const failed = there.filter(s => s.failure && !(OWN_FAULTS as readonly string[]).includes(s.failure))
    const right = there.filter(s => !s.failure)
    expect(courses[0]!.lines[0]!.values[bin]).toBeCloseTo(there.length / (to - from), 10)
    expect(courses[1]!.lines[0]!.values[bin]).toBeCloseTo(failed.length / (failed.length + right.length), 10)
    for (const { value, values } of courses[2]!.lines)
      expect(values[bin]).toBeCloseTo(there.filter(s => s.failure === value).length / (to - from), 10)
    const failedMs = there.flatMap(s => (s.failure ? [s.ms] : []))
    expect(courses[3]!.lines.map(l => l.value)).toEqual(['p50', 'largest'])
    expectNear(courses[3]!.lines[0]!.values[bin]!, percentile(failedMs, 0.5))
    expectNear(courses[3]!.lines[1]!.values[bin]!, Math.max(...failedMs))
  })
})

it('one question about many staffs says what each says alone', () => {
  const { addWindow } = sampled(3)
  const bins = { fromS: 3, toS: 19, binS: 1 }
  const wishes: StaffWish[] = [
    { statistics: ['mean'], measure: 'answered' },
    { statistics: ['p99'], measure: 'answered', split: 'step', only: { machine: ['AAA-1'] } },
    { statistics: ['perSecond'], measure: 'right', split: 'network' },
    { statistics: ['smallest'], measure: 'answered', only: { step: ['look/Both'] } },
  ]
  const reads = { addWindow, secondsIn: () => [] }
  const together = coursesOf(document, reads, wishes, bins, series)
  expect(together).toEqual(wishes.flatMap(wish => coursesOf(document, reads, [wish], bins, series)))
  // A span alone is told, although it adds up nowhere else.
  expect(together[3]!.lines[0]!.values.some(v => v !== null)).toBe(true)
})

it('users are the most of a bin, by what their cells know; where nobody told, nothing is said', () => {
  const cells = 2 * 3
  const second = (n: number): SecondFigures =>
    ({ second: n, usersByCell: Array.from({ length: cells }, (_, cell) => n + cell * 100) }) as unknown as SecondFigures
  const seconds = [0, 1, 2, 11].map(second)
  const secondsIn = (fromS: number, toS: number) => seconds.filter(s => s.second >= fromS && s.second < toS)
  const wishes: StaffWish[] = [
    { statistics: ['present'], measure: 'users' },
    { statistics: ['present'], measure: 'users', split: 'group', only: { location: ['BBB'] } },
    { statistics: ['present'], measure: 'users', split: 'journey' },
  ]
  const addWindow: AddWindow = () => expect(true).toBe(false)
  const bins = { fromS: 0, toS: 30, binS: 10 }
  const [all, byGroup, byJourney] = coursesOf(document, { addWindow, secondsIn }, wishes, bins, series)
  expect(all!.lines).toEqual([{ value: '', values: [1500 + 6 * 2, 1500 + 6 * 11, null] }])
  expect(byGroup!.lines).toEqual([
    { value: 'A', values: [302, 311, null] },
    { value: 'B', values: [402, 411, null] },
    { value: 'C', values: [502, 511, null] },
  ])
  expect(byJourney!.lines.map(l => [l.value, l.values[0]])).toEqual([
    ['look', 0 + 100 + 300 + 400 + 4 * 2],
    ['other', 200 + 500 + 2 * 2],
  ])
})

it('bins are of the lengths in which sums are kept, whole ones from the start of the run on', () => {
  expect(binsFor(0, 1200, 1200)).toEqual({ fromS: 0, toS: 1200, binS: 1 })
  expect(binsFor(7, 3600, 1200)).toEqual({ fromS: 0, toS: 3600, binS: 10 })
  expect(binsFor(150, 28_800, 1200)).toEqual({ fromS: 100, toS: 28_800, binS: 100 })
})
