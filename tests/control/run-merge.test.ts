/** The merge: exact whatever comes twice, late, damaged or after a restart. */
import { statSync } from 'node:fs'
import { join } from 'node:path'
import { crc32 } from 'node:zlib'
import { build } from 'hdr-histogram-js'
import { Histogram } from '../../core/histogram/histogram'
import { HIGHEST_TRACKABLE_US } from '../../core/histogram/layout'
import { SeriesSum } from '../../core/merge/series-sum'
import { RunMerge } from '../../control/ingest/run-merge'
import { readRun, windowFigures } from '../../control/ingest/run-reader'
import { histogramLog, readHistogramLog } from '../../control/ingest/histogram-log'
import { summarise } from '../../core/result/summary'
import { openFrame } from '../../protocol/frame'
import { ownFolder } from '../build/folder'
import { framesOf, type Sample } from '../build/frames'
import { runDocument } from '../build/plans'

const folder = ownFolder()
const document = runDocument()
const GENERATORS = [
  { machineId: 'a', name: 'REY-1', location: 0 },
  { machineId: 'b', name: 'TAV-1', location: 1 },
]
// Series of the test plan: 0 Look and 1 Ask at REY, 2 Look and 3 Ask at TAV.
const rey: Sample[] = Array.from({ length: 400 }, (_, i) => ({
  series: i % 2,
  startS: i * 0.35,
  ms: 20 + ((i * 37) % 900),
  fails: i % 50 === 0,
}))
const tav: Sample[] = Array.from({ length: 300 }, (_, i) => ({
  series: 3 + (i % 2),
  startS: i * 0.45,
  ms: 30 + ((i * 53) % 1500),
}))
let count = 0
const open = (path = join(folder, `run-${++count}.db`)) => ({ path, merge: new RunMerge(path, document, GENERATORS) })
const whole = (sums: Map<number, SeriesSum>) => {
  const sum = new SeriesSum()
  for (const s of sums.values()) sum.add(s)
  return sum
}
/** A frame with something in its head changed, and a checksum that fits: what a generator gone wrong would send. */
function spoilt(
  bytes: Uint8Array,
  { sequence, second, entries }: { sequence?: number, second?: number, entries?: number },
): Uint8Array {
  const view = new DataView(bytes.slice().buffer)
  if (sequence !== undefined) view.setUint32(10, sequence, true)
  if (second !== undefined) view.setUint32(14, second, true)
  let made = new Uint8Array(view.buffer).subarray(0, bytes.length - 4)
  if (entries !== undefined) {
    // Its number of entries is the first byte that is not of the head; a last one of a series nobody knows.
    const at = bytes.length - 4 - openFrame(bytes).reader.end + openFrame(bytes).reader.at - 1
    made = Uint8Array.from([
      ...made.subarray(0, at),
      entries,
      ...made.subarray(at + 1),
      ...Array.from({ length: entries - made[at]! }, () => [99, ...new Array<number>(16).fill(0)]).flat(),
    ])
  }
  const sum = new DataView(new ArrayBuffer(4))
  sum.setUint32(0, crc32(made), true)
  return Uint8Array.from([...made, ...new Uint8Array(sum.buffer)])
}
const frames = () => [framesOf(rey), framesOf(tav)] as const
function feed(merge: RunMerge): void {
  frames().forEach((list, g) =>
    list.forEach((f, i) => {
      merge.take(g, f.bytes)
      if (i % 7 === 0) merge.flush()
    }),
  )
}
/** What a window must hold, counted straight from the samples. */
function expectedIn(
  fromS: number,
  toS: number,
  series?: number,
): { right: number, started: number, histogram: Histogram } {
  const histogram = new Histogram()
  let started = 0
  for (const s of [...rey, ...tav]) {
    if (series !== undefined && s.series !== series) continue
    if (s.startS >= fromS && s.startS < toS) started++
    const end = Math.floor((s.startS * 1000 + s.ms) / 1000)
    if (!s.fails && end >= fromS && end < toS) histogram.record(s.ms * 1000)
  }
  return { right: histogram.count, started, histogram }
}

describe('merging a run', () => {
  it('answers for any window exactly as if it had been recorded in one place', () => {
    const { merge } = open()
    feed(merge)
    merge.settle()
    for (const [from, to] of [
      [0, 200],
      [0, 1],
      [7, 13],
      [10, 20],
      [3, 137],
      [99, 141],
      [100, 110],
    ] as const) {
      const sums = merge.window(from, to)
      const expected = expectedIn(from, to)
      expect([from, to, whole(sums).right, whole(sums).started]).toEqual([from, to, expected.right, expected.started])
      for (const p of [0.5, 0.95, 0.99])
        expect(whole(sums).timings.right.percentileUs(p)).toBe(expected.histogram.percentileUs(p))
      expect(sums.get(1)?.right ?? 0).toBe(expectedIn(from, to, 1).right)
    }
    merge.close()
  })

  it('does not wait for a generator that joins later, before that; from then on it does', () => {
    const merge = new RunMerge(join(folder, `run-${++count}.db`), document, [
      GENERATORS[0]!,
      { ...GENERATORS[1]!, joinsS: 8 },
    ])
    const [mine, late] = [framesOf(rey), framesOf(tav.filter(s => s.startS >= 10))]
    const finals = () =>
      merge
        .flush()
        .seconds.filter(s => s.final)
        .map(s => s.second)
    for (const f of mine.filter(f => f.second < 12)) merge.take(0, f.bytes)
    // Nothing has come of the other: final up to the second before it joins.
    expect(finals().at(-1)).toBe(7)
    for (const f of late.filter(f => f.second >= 8 && f.second < 11)) merge.take(1, f.bytes)
    expect(finals().at(-1)).toBe(10)
    merge.leave(1)
    expect(finals().at(-1)).toBe(11)
    merge.close()
  })

  it('changes nothing when frames come twice, and says how often', () => {
    const { merge } = open()
    feed(merge)
    feed(merge)
    merge.settle()
    expect(whole(merge.window(0, 200)).started).toBe(700)
    const ledger = merge.ledger(new Map())
    expect(ledger.accounts.map(a => a.frames.repeated)).toEqual(ledger.accounts.map(a => a.frames.received))
    expect(ledger).toMatchObject({ balanced: true, missing: 0, merged: { started: 700 } })
    merge.close()
  })

  it('adds what comes long after its second was written, at every level', () => {
    const { merge } = open()
    const [a, b] = frames()
    a.forEach(f => merge.take(0, f.bytes))
    for (let i = 0; i < 5; i++) merge.flush()
    expect(whole(merge.window(0, 100)).started).toBe(rey.filter(s => s.startS < 100).length)
    b.forEach(f => merge.take(1, f.bytes))
    const { seconds } = merge.flush()
    expect(seconds.some(s => s.second === 3 && s.final)).toBe(true)
    merge.settle()
    expect(whole(merge.window(0, 200)).started).toBe(700)
    expect(whole(merge.window(10, 20)).timings.right.percentileUs(0.95)).toBe(
      expectedIn(10, 20).histogram.percentileUs(0.95),
    )
    expect(merge.seconds()[3]!.started).toBe(expectedIn(3, 4).started)
    merge.close()
  })

  it('takes a frame whole or not at all: one that breaks off in its last entry leaves nothing in the sums', () => {
    const { merge } = open()
    const good = framesOf([
      { series: 0, startS: 0.1, ms: 300 },
      { series: 0, startS: 0.2, ms: 300 },
    ])[0]!
    merge.take(0, good.bytes)
    expect(merge.take(0, spoilt(good.bytes, { sequence: 2, entries: 3 }))).toContain('not of this run')
    merge.settle()
    expect(whole(merge.window(0, 200)).started).toBe(2)
    expect(merge.ledger(new Map()).accounts[0]!.merged.started).toBe(2)
    merge.close()
  })

  it('acknowledges up to the first gap: what is behind a frame that could not be read keeps its sender from forgetting that one', () => {
    const { merge } = open()
    const list = framesOf(rey)
    list
      .slice(0, 10)
      .forEach((f, i) => merge.take(0, i === 4 ? f.bytes.map((b, at) => (at === 20 ? b ^ 255 : b)) : f.bytes))
    expect(merge.flush().acks).toEqual([{ generator: 0, incarnation: 1, worker: 0, upTo: 4 }])
    merge.take(0, list[4]!.bytes)
    expect(merge.flush().acks).toEqual([{ generator: 0, incarnation: 1, worker: 0, upTo: 10 }])
    list.slice(10).forEach(f => merge.take(0, f.bytes))
    merge.settle()
    // It came again whole: nothing contradicts itself.
    expect(merge.ledger(new Map()).accounts[0]!).toMatchObject({
      contradictions: [],
      missing: 0,
      frames: { absent: 0 },
    })
    merge.close()
  })

  it('refuses a second that cannot be, and makes none for it', () => {
    const { merge, path } = open()
    const [first] = framesOf(rey)
    expect(merge.take(0, spoilt(first!.bytes, { second: 20_000_000 }))).toContain('second 20000000 lies beyond')
    expect(merge.take(0, spoilt(first!.bytes, { second: 40 }), 30)).toContain('second 40 lies beyond 30')
    merge.settle()
    expect(merge.seconds()).toEqual([])
    merge.close()
    expect(statSync(path).size).toBeLessThan(200_000)
  })

  it('says of whom nobody knows whether they are there, until they are heard or known to be gone', () => {
    const { merge } = open()
    const [a, b] = frames()
    a.filter(f => f.second < 40).forEach(f => merge.take(0, f.bytes))
    b.filter(f => f.second < 20).forEach(f => merge.take(1, f.bytes))
    const of = (second: number) =>
      merge
        .flush()
        .seconds.concat(merge.seconds())
        .findLast(s => s.second === second)!
    expect([of(19), of(20), of(39)].map(s => [s.usersByLocation, s.unknownByLocation])).toEqual([
      [[3, 3], undefined],
      [
        [3, 0],
        [0, 3],
      ],
      [
        [3, 0],
        [0, 3],
      ],
    ])
    b.filter(f => f.second < 25).forEach(f => merge.take(1, f.bytes))
    expect([of(24), of(25)].map(s => [s.usersByLocation, s.usersByCell, s.unknownByLocation])).toEqual([
      [[3, 3], [3, 3], undefined],
      [
        [3, 0],
        [3, 0],
        [0, 3],
      ],
    ])
    merge.leave(1, 30)
    a.filter(f => f.second >= 40 && f.second < 45).forEach(f => merge.take(0, f.bytes))
    expect([of(29), of(30)].map(s => s.unknownByLocation)).toEqual([[0, 3], undefined])
    merge.close()
  })

  it('acknowledges only what a commit holds, and loses none of that when the process ends without a word', () => {
    const { merge, path } = open()
    const [a, b] = frames()
    a.slice(0, 60).forEach(f => merge.take(0, f.bytes))
    b.slice(0, 60).forEach(f => merge.take(1, f.bytes))
    expect(merge.flush().acks).toEqual([
      { generator: 0, incarnation: 1, worker: 0, upTo: 60 },
      { generator: 1, incarnation: 1, worker: 0, upTo: 60 },
    ])
    a.slice(60, 70).forEach(f => merge.take(0, f.bytes))
    // No flush: those ten are not acknowledged, so their generator sends them again.
    merge.close()
    const again = new RunMerge(path, document, GENERATORS)
    a.slice(60).forEach(f => again.take(0, f.bytes))
    b.slice(55).forEach(f => again.take(1, f.bytes))
    again.settle()
    expect(whole(again.window(0, 200)).started).toBe(700)
    for (const p of [0.5, 0.95])
      expect(whole(again.window(20, 120)).timings.right.percentileUs(p)).toBe(
        expectedIn(20, 120).histogram.percentileUs(p),
      )
    expect(again.ledger(new Map())).toMatchObject({ balanced: true, missing: 0 })
    again.close()
  })

  it('calls a second final only when every live generator has passed it', () => {
    const { merge } = open()
    const [a] = frames()
    a.slice(0, 5).forEach(f => merge.take(0, f.bytes))
    expect(merge.flush().seconds.every(s => !s.final)).toBe(true)
    merge.leave(1)
    expect(
      merge
        .flush()
        .seconds.filter(s => s.final)
        .map(s => s.second),
    ).toEqual([0, 1, 2, 3, 4])
    merge.close()
  })

  it('keeps a frame it cannot read, and the account says so', () => {
    const { merge } = open()
    framesOf(rey)
      .slice(0, 40)
      .forEach(f => merge.take(0, f.bytes))
    merge.take(0, Uint8Array.of(1, 2, 3))
    merge.settle()
    const ledger = merge.ledger(new Map())
    expect(ledger.balanced).toBe(false)
    expect(ledger.accounts[0]!.contradictions[0]).toContain('1 frame could not be read')
    merge.close()
    // Where the account is complete without it, it is only counted.
    const { merge: complete } = open()
    feed(complete)
    complete.take(0, Uint8Array.of(1, 2, 3))
    complete.settle()
    expect(complete.ledger(new Map())).toMatchObject({ balanced: true, accounts: [{ frames: { unreadable: 1 } }, {}] })
    complete.close()
  })

  it('answers the plan’s question from the merged run, over the whole load when nothing settles', () => {
    const { merge } = open()
    feed(merge)
    merge.settle()
    const summary = summarise(merge, document, {
      goneAtSecond: [],
      lost: [],
      absent: [],
      clockUncertaintyMs: [['REY-1', 2]],
      rehearsed: true,
      pathMs: {},
      notReached: [],
      rollCallNotes: [],
    })
    const ask =
      whole(new Map([...merge.window(0, 10)].filter(([n]) => n === 1 || n === 4))).timings.right.percentileUs(0.95)! /
      1000
    expect(summary.answer.judgements[0]).toMatchObject({ measured: ask, level: { fromS: 0, toS: 10 } })
    expect(summary.answer.settled).toBe(false)
    expect(summary.ledger.balanced).toBe(true)
    merge.close()
  })

  it('can be read by another while it is written, broken down by step and location', () => {
    const { merge, path } = open()
    feed(merge)
    merge.settle()
    const figures = readRun(path, run => windowFigures(document, run, 0, 200))
    expect(figures.total.started).toBe(700)
    expect(figures.steps.map(s => s.figures.started)).toEqual([350, 350, 0])
    expect(figures.steps[0]!.byLocation.REY!.started).toBe(200)
    expect(figures.locations.map(l => l.figures.started)).toEqual([400, 300])
    merge.close()
  })
})

describe('histogram log', () => {
  /** Outside check: hdr-histogram-js reads ours and writes what we read. */
  it('is read by the reference library value for value, and read back by us', async () => {
    const { merge } = open()
    feed(merge)
    merge.settle()
    const text = histogramLog(document, (a, b) => merge.window(a, b), 145, 1_795_600_000_000)
    const { HistogramLogReader } = await import('hdr-histogram-js')
    const reader = new HistogramLogReader(text)
    const theirs = build({
      lowestDiscernibleValue: 1,
      highestTrackableValue: HIGHEST_TRACKABLE_US,
      numberOfSignificantValueDigits: 3,
    })
    for (let h = reader.nextIntervalHistogram(); h; h = reader.nextIntervalHistogram()) theirs.add(h as never)
    const ours = expectedIn(0, 200).histogram
    expect(theirs.totalCount).toBe(ours.count)
    for (const p of [50, 90, 95, 99, 100]) expect(theirs.getValueAtPercentile(p)).toBe(ours.percentileUs(p / 100))
    const back = new Histogram()
    for (const line of readHistogramLog(text)) back.add(line.histogram)
    expect(back.percentileUs(0.95)).toBe(ours.percentileUs(0.95))
    merge.close()
  })

  it('written by the reference library is read by us; a broken line is named', async () => {
    const { HistogramLogWriter } = await import('hdr-histogram-js')
    let text = ''
    const writer = new HistogramLogWriter((t: string) => {
      text += t
    })
    const h = build({
      lowestDiscernibleValue: 1,
      highestTrackableValue: HIGHEST_TRACKABLE_US,
      numberOfSignificantValueDigits: 3,
    })
    for (let i = 1; i < 500; i++) h.recordValue(i * 977)
    h.startTimeStampMsec = 1000
    h.endTimeStampMsec = 11_000
    writer.outputLegend()
    writer.outputIntervalHistogram(h)
    const [line] = readHistogramLog(text)
    expect(line!.histogram.count).toBe(499)
    for (const p of [0.5, 0.99]) expect(line!.histogram.percentileUs(p)).toBe(h.getValueAtPercentile(p * 100))
    expect(() => readHistogramLog('Tag=x,0,1,2,notahistogram!')).toThrow('line 1')
    expect(() => readHistogramLog('#[x]\n0,1,2,AAAA')).toThrow('line 2')
  })
})
