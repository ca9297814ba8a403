/** Failures of a run, against the plain list of exchanges they were counted from: how, where, when, and how surely. */
import { FAILURE_KINDS, type FailureKind } from '../../core/journey/failure-kinds'
import { SeriesSum } from '../../core/merge/series-sum'
import { stepKey } from '../../core/objectives/subject'
import { seededRandom } from '../../core/random/seeded'
import { failuresOf } from '../../core/result/failures'
import { seriesOf } from '../../core/run/series'
import { journey, plan, runDocument } from '../build/plans'

const CODES = ['AAA', 'BBB', 'CCC']
const document = runDocument({
  plan: plan({
    locations: CODES.map(code => ({ code, provider: 'p', region: code, machineType: 't', machines: 1 })),
    placement: { A: { AAA: 3333, BBB: 3333, CCC: 'rest' } },
  }),
  journeys: [journey()],
})
const series = seriesOf(document)

interface Exchange {
  second: number
  series: number
  failed: FailureKind | undefined
}

/** This many exchanges a second of each series. */
function exchanges(
  lengthS: number,
  perSecond: number,
  how: (at: { second: number, code: string, step: string, n: number }) => FailureKind | undefined,
): Exchange[] {
  const all: Exchange[] = []
  const counters = series.map(() => 0)
  for (let second = 0; second < lengthS; second++)
    for (const [number, of] of series.entries())
      if (of.kind === 'request')
        for (let i = 0; i < perSecond; i++)
          all.push({
            second,
            series: number,
            failed: how({ second, code: CODES[of.location]!, step: of.stepName, n: ++counters[number]! }),
          })
  return all
}

const summed = (all: readonly Exchange[]) => (fromS: number, toS: number) => {
  const sums = new Map<number, SeriesSum>()
  for (const { second, series, failed } of all) {
    if (second < fromS || second >= toS) continue
    if (!sums.has(series)) sums.set(series, new SeriesSum())
    const sum = sums.get(series)!
    sum.started++
    if (failed) sum.failures[FAILURE_KINDS.indexOf(failed)]!++
    else sum.right++
  }
  return sums
}

it('names what failed by known rules, with the right share, step, seconds and place', () => {
  // Every 7th a wrong status; every 11th of Ask broken off from second 30 to 79; BBB times out in every 5th.
  const all = exchanges(200, 3, ({ second, code, step, n }) =>
    n % 7 === 0
      ? 'status'
      : step === 'Ask' && n % 11 === 0 && second >= 30 && second < 80
        ? 'reset'
        : code === 'BBB' && n % 5 === 0
          ? 'timeout'
          : undefined)
  const report = failuresOf(document, summed(all), { fromS: 0, toS: 200 })
  const failed = all.filter(e => e.failed)
  expect([report.ended, report.failed]).toEqual([all.length, failed.length])
  expect(report.kinds.map(k => k.kind)).toEqual(['status', 'timeout', 'reset'])
  for (const line of report.kinds) {
    const mine = failed.filter(e => e.failed === line.kind)
    expect([line.count, line.firstS, line.lastS]).toEqual([mine.length, mine[0]!.second, mine.at(-1)!.second])
    expect(line.course.reduce((a, b) => a + b, 0)).toBe(mine.length)
    expect(Object.fromEntries(line.steps)).toEqual(
      mine.reduce<Record<string, number>>((of, e) => {
        const key = stepKey('look', series[e.series]!.stepName)
        return { ...of, [key]: (of[key] ?? 0) + 1 }
      }, {}),
    )
  }
  const [status, timeout, reset] = report.kinds
  expect([status!.places, reset!.places]).toEqual([[], []])
  expect(timeout!.places.map(p => p.value)).toEqual(['BBB', 'AAA', 'CCC'])
  const there = all.filter(e => series[e.series]!.location === 1)
  expect(timeout!.places[0]!.share).toBeCloseTo(there.filter(e => e.failed === 'timeout').length / there.length, 10)
  expect(timeout!.places[0]!.restShare).toBe(0)
})

it('looks at a window and at what is chosen only', () => {
  const all = exchanges(120, 2, ({ second, step }) => (second % 10 === 3 && step === 'Ask' ? 'status' : undefined))
  const report = failuresOf(document, summed(all), { fromS: 15, toS: 47 }, { location: ['AAA'] })
  expect(report.kinds.map(k => [k.kind, k.count, k.firstS, k.lastS])).toEqual([['status', 6, 23, 43]])
  expect(failuresOf(document, summed(all), { fromS: 0, toS: 120 }, { step: [stepKey('look', 'Look')] }).kinds).toEqual([])
  expect(failuresOf(document, summed(all), { fromS: 500, toS: 200 })).toMatchObject({ ended: 0, failed: 0, kinds: [] })
})

it('the generators’ own faults are told and in no share', () => {
  const all = exchanges(20, 2, ({ n }) => (n % 4 === 0 ? 'ownDelay' : undefined))
  const report = failuresOf(document, summed(all), { fromS: 0, toS: 20 })
  expect([report.ended, report.failed, report.kinds.map(k => k.kind)]).toEqual([
    all.filter(e => !e.failed).length,
    0,
    ['ownDelay'],
  ])
})

it('places alike are hardly ever told apart, though failures come in bunches: twice in 60 runs at most', () => {
  let told = 0
  const runs = 60
  for (let seed = 1; seed <= runs; seed++) {
    const random = seededRandom(seed)
    // Every place has a bad tenth of its time, at moments of its own, in which half of everything fails.
    const bad = new Map<string, boolean>()
    const isBad = (code: string, second: number) => {
      const key = `${code} ${Math.floor(second / 5)}`
      if (!bad.has(key)) bad.set(key, random() < 0.1)
      return bad.get(key)!
    }
    const all = exchanges(300, 1, ({ second, code }) =>
      isBad(code, second) && random() < 0.5 ? 'status' : undefined)
    const report = failuresOf(document, summed(all), { fromS: 0, toS: 300 })
    if (report.kinds.some(k => k.places.length > 0)) told++
  }
  expect(told).toBeLessThanOrEqual(2)
})
