/** Files of results become a run: every row counts once, in its second, and percentiles are those of the rows. */
import { mkdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { gzipSync } from 'node:zlib'
import { parse } from 'csv-parse/sync'
import { build, HistogramLogWriter } from 'hdr-histogram-js'
import { mergeResults, type MergeWish } from '../../control/elsewhere/merge-results'
import { beginningOf } from '../../control/elsewhere/read-results'
import { scan, type ResultFile } from '../../control/elsewhere/scan'
import { findExemplars } from '../../control/ingest/exemplars'
import { Pyramid } from '../../control/ingest/pyramid'
import { readRun, windowFigures } from '../../control/ingest/run-reader'
import { openRunFile } from '../../control/store/open'
import { TargetFile } from '../../control/store/target-file'
import type { FileReading } from '../../core/elsewhere/reading'
import { recognise } from '../../core/elsewhere/recognise'
import { SeriesSum } from '../../core/merge/series-sum'
import { ownFolder } from '../build/folder'

const folder = ownFolder()
const NOW = 1_790_000_000_000
const T0 = 1_760_000_000_000
let count = 0

async function file(name: string, content: string | Uint8Array, over: Partial<ResultFile> = {}): Promise<ResultFile> {
  const path = join(folder, `file-${++count}`)
  writeFileSync(path, content)
  const { reading } = recognise(await beginningOf(path))
  return { path, file: `id of ${name}`, name, reading, place: name.replace(/\..*/, ''), shiftMs: 0, ...over }
}
function merge(files: ResultFile[], over: Partial<MergeWish> = {}) {
  const own = join(folder, `run-${++count}`)
  mkdirSync(own)
  const [path, targetPath] = [join(own, 'run.db'), join(own, 'target.db')]
  return mergeResults({ files, name: 'told', unnamedDoubles: 'keep', objectives: [], path, targetPath, ...over }, NOW, () => undefined)
    .then(merged => ({ ...merged, path, targetPath }))
}
const figures = ({ path, document }: Awaited<ReturnType<typeof merge>>, fromS = 0, toS = 100_000) =>
  readRun(path, run => windowFigures(document, run, fromS, toS, {}))
/** Nearest rank: the smallest of which at least the share p is not larger. */
const nearestRank = (values: number[], p: number) => values.sort((a, b) => a - b)[Math.ceil(p * values.length) - 1]!

/** Rows out of order, some wrong, of three users at two places. */
const rows = Array.from({ length: 5000 }, (_, i) => ({
  time: T0 + ((i * 7919) % 60_000),
  step: i % 3 === 0 ? 'Search' : 'Enrol, then “look”',
  duration: 5 + ((i * 104_729) % 1900) / 1.7,
  ok: i % 40 !== 0,
  bytes: i % 777,
  user: `u${i % 3}`,
  place: i % 2 === 0 ? 'north' : 'south',
  message: i % 40 === 0 ? 'Request timed out' : '',
}))
const csv = ['time,step,duration_ms,ok,bytes,user,place,message', ...rows.map(r => `${r.time},"${r.step.replaceAll('"', '""')}",${r.duration},${r.ok},${r.bytes},${r.user},${r.place},${r.message}`)].join('\r\n')

describe('a CSV', () => {
  it('is a run: counts by step, place and second, percentiles by nearest rank', async () => {
    const merged = await merge([await file('north.csv', csv)], { objectives: ['p95 of Search at most 2 s', 'failures at most 1 %'] })
    const { total, steps, locations } = figures(merged)
    // Read by another parser, and reckoned by hand.
    const read = parse<Record<string, string>>(csv, { columns: true })
    const bytes = read.reduce((n, r) => n + Number(r.bytes), 0)
    expect(total).toMatchObject({ started: 5000, right: 4875, failed: 125, bytes })
    expect(total.failures).toEqual({ timeout: 125 })
    for (const step of ['Search', 'Enrol, then “look”']) {
      const times = read.filter(r => r.step === step && r.ok === 'true').map(r => Number(r.duration_ms))
      const found = steps.find(s => s.step === step)!.figures
      expect(found.right).toBe(times.length)
      for (const [p, ms] of [[0.5, found.p50Ms], [0.95, found.p95Ms], [0.99, found.p99Ms]] as const)
        expect(Math.abs(ms! / nearestRank(times, p) - 1)).toBeLessThan(0.001)
    }
    expect(locations.map(l => [l.code, l.figures.started])).toEqual([['NOR', 2500], ['SOU', 2500]])
    const second = figures(merged, 10, 11)
    expect(second.total.started).toBe(read.filter(r => Math.floor((Number(r.time) - T0) / 1000) === 10).length)
    const merge5000 = { balanced: true, missing: 0, atMostUnknown: 0, merged: { started: 5000 } }
    expect(merged.summary.ledger).toMatchObject(merge5000)
    expect(merged.summary.answer).toMatchObject({ verdict: 'broken' })
    expect(merged.summary.findings.map(f => [f.code, f.weight])).toContainEqual(['as-claimed', 'qualifies'])
    expect(merged.summary.why).not.toContain('generator')
    expect(merged.summary.peakUsers).toBe(6)
    expect([merged.startAt, merged.document.plan.question]).toEqual([T0, 'told'])
  })

  it('keeps failures with what was said of them', async () => {
    const merged = await merge([await file('north.csv', csv)])
    const store = openRunFile(merged.path)
    const found = findExemplars(store, { most: 5, failure: 'timeout' })
    store.close()
    expect(found.total + found.dropped).toBe(125)
    expect(found.records[0]).toMatchObject({ problem: 'Request timed out', group: 'A' })
  })

  it('packed, in another encoding, or with a mark in front is the same', async () => {
    const plain = (await merge([await file('a.csv', csv)])).summary.whole
    expect((await merge([await file('a.csv.gz', gzipSync(csv))])).summary.whole).toEqual(plain)
    expect((await merge([await file('a.csv', Buffer.from(`\uFEFF${csv}`, 'utf16le'))])).summary.whole).toEqual(plain)
  })

  it('rows that cannot be read are told with their lines, and cost none of the others', async () => {
    const [first, ...others] = csv.split('\r\n')
    const { files } = await scan({ files: [await file('a.csv', [first, 'noon,x,1,true,0,u,p,', ...others, `${T0},x,-3,true,0,u,p,`].join('\n'))] }, () => undefined)
    expect(files[0]).toMatchObject({ rows: 5000, faultCount: 2, faults: [{ line: 2 }, { line: 5003, sentence: '“-3” is no duration in ms' }] })
  })

  it('a quotation mark that is never closed, an archive, and nothing at all say what to do', async () => {
    const bad = await file('a.csv', `time,step,duration,ok\n${T0},"open,1,true\n${T0},x,1,true\n`)
    await expect(merge([bad])).rejects.toThrow('never closed')
    const zip = { ...bad, path: join(folder, 'zip') }
    writeFileSync(zip.path, Buffer.from([0x50, 0x4b, 3, 4, 0, 0]))
    await expect(merge([zip])).rejects.toThrow('archive')
    await expect(merge([await file('a.csv', 'time,step,duration,ok\n')])).rejects.toThrow('No row of it can be read')
    const other: FileReading = { form: 'csv', columns: { time: 'moment' } }
    await expect(merge([await file('a.csv', csv, { reading: other })])).rejects.toThrow('There is no column “moment”')
  })
})

describe('several files', () => {
  const line = (time: number, user = '') => `${time},Look,100,true,${user}`
  const head = 'time,step,duration,ok,user'
  const of = (name: string, ...lines: string[]) => file(name, [head, ...lines].join('\n'))

  it('the same file counts once; equal rows that name their user count once; others are asked about', async () => {
    const a = await of('a.csv', line(T0, 'u1'), line(T0 + 1000, 'u2'), line(T0 + 2000), line(T0 + 3000))
    const b = await of('b.csv', line(T0, 'u1'), line(T0 + 2000), line(T0 + 5000, 'u9'))
    const place = { place: 'one place' }
    const files = [{ ...a, ...place }, { ...b, ...place }, { ...a, ...place, name: 'a again.csv' }]
    const kept = await merge(files)
    expect(kept.doubles).toEqual({ named: 1, unnamed: 1 })
    expect(kept.files[2]).toMatchObject({ sameAs: 'a.csv', rows: 0 })
    expect(kept.summary.whole.started).toBe(6)
    expect((await merge(files, { unnamedDoubles: 'leaveOut' })).summary.whole.started).toBe(5)
  })

  it('clocks are moved as it is said, or so that a shared mark falls together', async () => {
    const a = await of('a.csv', line(T0), `${T0 + 4000},mark,0,true,`)
    const b = await of('b.csv', line(T0 + 90_000), `${T0 + 93_000},mark,0,true,`)
    expect((await merge([a, { ...b, shiftMs: -88_000 }])).summary.lengthS).toBe(6)
    const marked = await merge([a, b], { mark: 'mark' })
    const [journey] = marked.document.journeys
    expect(journey!.kind === 'command' && journey!.steps).toContain('mark')
    expect(figures(marked, 4, 5).steps.find(s => s.step === 'mark')!.figures.started).toBe(2)
    expect(figures(marked, 1, 2).steps.find(s => s.step === 'Look')!.figures.started).toBe(1)
    await expect(merge([a, await of('c.csv', line(T0))], { mark: 'mark' })).rejects.toThrow('“mark” is no step of c.csv')
  })

  it('files a day apart are refused before anything is made', async () => {
    await expect(merge([await of('a.csv', line(T0)), await of('b.csv', line(T0 + 30 * 86_400_000))])).rejects.toThrow('the longest run is 24 h')
  })
})

it('means of several stand apart: no percentile is made of them', async () => {
  const text = ['time,step,mean_ms,count', ...[0, 1, 2].map(i => `${T0 + i * 10_000},Look,${100 + i},${40 + i}`)].join('\n')
  const both = [await file('means.csv', text), await file('rows.csv', `time,step,duration,ok\n${T0},Look,70,true\n${T0 + 20_000},Look,90,true\n`)]
  const merged = await merge(both)
  expect(merged.files[0]).toMatchObject({ averages: 3, rows: 0 })
  expect(merged.summary.whole).toMatchObject({ started: 2, p99Ms: expect.closeTo(90, 0) as number })
  const target = new TargetFile(merged.targetPath)
  const lines = target.lines()
  const values = lines.map(l => [l.series, l.split, target.values(l.id, T0).map(v => v.value)])
  target.close()
  expect(values).toEqual([
    ['mean as told, means.csv', 'Look', [100, 101, 102]],
    ['requests as told, means.csv', 'Look', [40, 41, 42]],
  ])
})

it('an access log without times counts its requests, and has no percentiles', async () => {
  const at = (s: number) => `10.0.0.7 - - [02/Jan/2026:08:00:${String(s).padStart(2, '0')} +0000] "GET /a/${s} HTTP/1.1" ${s % 5 === 0 ? 500 : 200} 10`
  const merged = await merge([await file('access.log', Array.from({ length: 20 }, (_, s) => at(s)).join('\n'))])
  const expected = { started: 20, right: 16, failed: 4, failures: { status: 4 }, p95Ms: undefined }
  expect(merged.summary.whole).toMatchObject(expected)
  expect(merged.files[0]).toMatchObject({ withoutTime: 20 })
  expect(merged.summary.ledger.balanced).toBe(true)
  const timed = await merge([await file('access.log', Array.from({ length: 20 }, (_, s) => `${at(s)} 0.25`).join('\n'))])
  expect(timed.summary.whole.p95Ms).toBeCloseTo(250, 0)
})

it('a histogram log that another program wrote has the percentiles it had there', async () => {
  const histogram = build({
    lowestDiscernibleValue: 1,
    highestTrackableValue: 3_600_000_000,
    numberOfSignificantValueDigits: 3,
  })
  for (let i = 1; i <= 3000; i++) histogram.recordValue(i * 317)
  let text = ''
  const writer = new HistogramLogWriter((content) => {
    text += content
  })
  writer.outputLogFormatVersion()
  writer.outputStartTime(T0)
  writer.outputLegend()
  histogram.startTimeStampMsec = T0
  histogram.endTimeStampMsec = T0 + 10_000
  writer.outputIntervalHistogram(histogram, T0 / 1000, (T0 + 10_000) / 1000)
  const merged = await merge([await file('from-elsewhere.hlog', text)])
  const { whole } = merged.summary
  expect(whole.right).toBe(3000)
  for (const [p, ms] of [[50, whole.p50Ms], [95, whole.p95Ms], [99, whole.p99Ms]] as const)
    expect(ms! * 1000).toBe(histogram.getValueAtPercentile(p))
})

describe('results that join a run', () => {
  const line = (r: (typeof rows)[number]) =>
    `${r.time},"${r.step.replaceAll('"', '""')}",${r.duration},${r.ok},${r.bytes},${r.user},${r.place},${r.message}`
  const head = csv.split('\r\n')[0]!
  /** Those of the middle, measured by the run that is joined, and the rest. */
  const isMiddle = (r: (typeof rows)[number]) => r.time >= T0 + 20_000 && r.time < T0 + 40_000
  const middle = [head, ...rows.filter(isMiddle).map(line)].join('\r\n')
  // Begun 250 ms off the whole second of the others.
  const others = [head, ...rows.filter(r => !isMiddle(r)).map(r => line({ ...r, time: r.time - 250 }))].join('\r\n')
  const joined = async (over: Partial<ResultFile> = {}, more: Partial<MergeWish> = {}) => {
    const own = await merge([await file('middle.csv', middle)])
    const { document, path, startAt } = own
    return { own, all: await merge([await file('others.csv', others, over)], { joined: { id: 7, path, document, startAt }, ...more }) }
  }

  it('are a new run with both, second by second and bucket by bucket; what they join stays as it was', async () => {
    const { own, all } = await joined()
    const before = figures(own)
    const together = figures(all)
    expect(together.total).toMatchObject({ started: 5000, right: 4875, failed: 125, failures: { timeout: 125 } })
    // As when all rows are read at once.
    const atOnce = figures(await merge([await file('all.csv', csv)]))
    for (const { step, figures: one } of atOnce.steps)
      expect(together.steps.find(s => s.step === step)!.figures).toEqual(one)
    expect(all.startAt).toBe(T0 - 1000)
    // In its own seconds there is nothing of the others but what they told of then.
    const offsetS = (own.startAt - all.startAt) / 1000
    expect(Number.isInteger(offsetS)).toBe(true)
    const mine = figures(all, offsetS + 1, offsetS + 19)
    expect(mine.total.started).toBe(figures(own, 1, 19).total.started)
    expect(mine.total.p95Ms).toBe(figures(own, 1, 19).total.p95Ms)
    expect(figures(own)).toEqual(before)
    expect(all.summary.ledger).toMatchObject({ balanced: true })
    expect(all.summary.ledger.accounts.map(a => a.generator).sort()).toEqual([
      'others.csv at north', 'others.csv at south', 'run 7 at NOR', 'run 7 at SOU',
    ])
    expect(all.document.claimed!.senders.map(s => s.how)).toEqual(['file', 'file', 'run', 'run'])
    // Users of both are there.
    expect(all.summary.peakUsers).toBeGreaterThanOrEqual(own.summary.peakUsers)
  })

  it('have their clock put right by a step that both have', async () => {
    const byHand = await joined({ shiftMs: 3_600_000 })
    expect(byHand.all.summary.lengthS).toBeGreaterThan(3600)
    const first = (of: string) => Math.min(...rows.filter(r => isMiddle(r) === (of === 'own') && r.step === 'Search').map(r => r.time))
    const { all, own } = await joined({ shiftMs: 3_600_000 }, { mark: 'Search' })
    // Their first falls to the second in which the run's own began.
    expect(all.summary.lengthS).toBeLessThan(120)
    const begun = Math.floor((first('own') - own.startAt) / 1000) * 1000 + own.startAt
    expect(all.startAt).toBeLessThanOrEqual(begun)
    expect(figures(all).total.started).toBe(5000)
    await expect(joined({}, { mark: 'No such' })).rejects.toThrow('“No such” is no step of')
  })

  it('begin with the run where they say no moment, and move none of its seconds', async () => {
    const own = await merge([await file('middle.csv', middle)])
    const { document, path, startAt } = own
    const inside = await file('own-clock.csv', 'time,step,duration_ms,ok\n0.5,Search,40,true\n1.5,Search,50,true')
    // A run begins at any moment.
    const all = await merge([inside], { joined: { id: 7, path, document, startAt: startAt + 386 } })
    expect(all.startAt).toBe(startAt + 386)
    const started = (of: typeof all, second: number) => figures(of, second, second + 1).total.started
    for (let second = 0; second < 20; second++)
      expect(started(all, second)).toBe(started(own, second) + (second < 2 ? 1 : 0))
  })

  it('leave open what the run saw no end of: it is told as unknown, not as ended', async () => {
    const own = await merge([await file('middle.csv', middle)])
    const store = openRunFile(own.path)
    const pyramid = new Pyramid(store, own.summary.lengthS - 1)
    const begun = new SeriesSum()
    begun.started = 3
    store.transaction(() => pyramid.add(5, new Map([[0, begun]])))()
    store.close()
    const { document, path, startAt } = own
    const all = await merge([await file('others.csv', others)], { joined: { id: 7, path, document, startAt } })
    expect(figures(all).total).toMatchObject({ started: 5003, right: 4875, failed: 125 })
    expect(all.summary.ledger.accounts.flatMap(a => a.contradictions)).toEqual([])
    expect(all.summary.ledger.accounts.reduce((n, a) => n + a.inFlight, 0)).toBe(3)
  })
})

it('JSON Lines as commands write them', async () => {
  const text = rows
    .slice(0, 300)
    .map(({ step, duration, ok, time, user, message }) =>
      JSON.stringify({ step, duration, ok, time: time + duration, user, message }))
  const merged = await merge([await file('lines.jsonl', [...text, 'rubbish', '[]', '{"step": 1}'].join('\n'))])
  expect(merged.summary.whole.started).toBe(300)
  expect(merged.files[0]!.faults.map(f => f.line)).toEqual([301, 302, 303])
})
