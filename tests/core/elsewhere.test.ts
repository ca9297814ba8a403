/** Results from elsewhere: what a file looks like, and what its rows say. */
import { readAccessLine, stepOfRequest } from '../../core/elsewhere/access-log'
import { ClaimedSeries, claimedDocument, planIdOf } from '../../core/elsewhere/claimed-document'
import { samplesOfHar } from '../../core/elsewhere/har-samples'
import { momentMs, type FileReading } from '../../core/elsewhere/reading'
import { recognise } from '../../core/elsewhere/recognise'
import { cellsOfObject, cellsOfRow, rowReader } from '../../core/elsewhere/row-reader'
import { failureOf } from '../../core/elsewhere/sample'
import { seriesOf } from '../../core/run/series'

describe('what a file looks like', () => {
  const reading = (text: string) => recognise(text).reading

  it('columns are known by their names, units by theirs or by the values', () => {
    const found = reading('time;step;duration_ms;ok;status;bytes\n1760000000000;Search;182;true;200;512\n1760000000100;Enrol;90;false;503;0\n')
    expect(found).toMatchObject({
      form: 'csv', separator: ';', header: true, timeUnit: 'ms', timeIs: 'start', durationUnit: 'ms',
      columns: { time: 'time', step: 'step', duration: 'duration_ms', ok: 'ok', status: 'status', bytes: 'bytes' },
    })
    expect(reading('started_at,label,took\n2026-01-02 10:00:00.5,Look,0.182\n2026-01-02 10:00:01,Look,0.2\n')).toMatchObject({
      timeUnit: 'iso', durationUnit: 's', columns: { time: 'started_at', step: 'label', duration: 'took' },
    })
    expect(reading('end_time,name,response time (us)\n1760000000,Look,182000\n1760000001,Look,190000\n')).toMatchObject({
      timeUnit: 's', timeIs: 'end', durationUnit: 'us',
    })
    expect(reading('when,latency_ns,url\n1760000000000000000,182000000,/a\n')).toMatchObject({ timeUnit: 'ns', durationUnit: 'ns' })
  })

  it('without names the first moments are the time, and the first numbers after them the duration', () => {
    expect(reading('Look,1760000000000,182\nAsk,1760000000100,95\n')).toMatchObject({
      header: false, columns: { time: 'column2', duration: 'column3' },
    })
  })

  it('one for how many it stands is an average; how many alone is none', () => {
    expect(reading('time,step,mean_ms,count\n1760000000000,Look,182,40\n1760000010000,Look,190,41\n').columns).toMatchObject({ duration: 'mean_ms', count: 'count' })
    expect(reading('time,step,count\n1760000000000,Look,40\n1760000010000,Look,44\n').columns.count).toBeUndefined()
  })

  it('other forms are known by how they begin', () => {
    expect(reading('{"step":"Look","duration":12.5,"ok":true,"time":1760000000000}\n')).toMatchObject({ form: 'jsonLines', timeIs: 'end' })
    expect(reading('{"log": {"version": "1.2", "entries": []}}').form).toBe('har')
    expect(reading('#[Histogram log format version 1.3]\n').form).toBe('histogramLog')
    expect(reading('127.0.0.1 - - [10/Oct/2000:13:55:36 -0700] "GET / HTTP/1.0" 200 2326\n').form).toBe('accessLog')
  })

  it('values inside an object are named with a dot', () => {
    const { reading: found, columns } = recognise('{"at":"2026-01-02T10:00:00Z","request":{"name":"Look"},"duration":12}\n')
    expect(columns).toContain('request.name')
    const cells = cellsOfObject({ ...found, columns: { step: 'request.name' } })({ request: { name: 'Look' } })
    expect(cells('step')).toBe('Look')
  })
})

describe('what a row says', () => {
  const reading: FileReading = {
    form: 'csv', timeUnit: 'ms', durationUnit: 'ms', timeIs: 'end',
    columns: { time: 't', step: 's', duration: 'd', ok: 'o', status: 'c', user: 'u', users: 'n', count: 'k' },
  }
  const read = rowReader(reading, 'the file')
  const row = cellsOfRow(reading, ['t', 's', 'd', 'o', 'c', 'u', 'n', 'k'])
  const of = (...cells: string[]) => read(row(cells))

  it('began as long before its end as it took', () => {
    expect(of('1000', 'Look', '182.5', 'true', '200', 'u1', '7', '1')).toMatchObject({
      step: 'Look', beganMs: 817.5, durationMs: 182.5, ok: true, status: 200, user: 'u1', users: 7,
    })
    expect(of('1000', '', '', 'no', '-', '', '', '1')).toMatchObject({ step: 'the file', durationMs: undefined, ok: false, status: 0, users: -1 })
  })

  it('that stands for several is no sample', () => {
    expect(of('1000', 'Look', '182', 'true', '200', '', '', '40')).toEqual({ average: { step: 'Look', atMs: 1000, meanMs: 182, count: 40 } })
  })

  it('that cannot be read says why', () => {
    expect(of('noon', 'Look', '1', 'true', '200', '', '', '1')).toBe('“noon” is no time in ms')
    expect(of('1760000000000000', 'Look', '1', 'true', '200', '', '', '1')).toContain('look at the unit of time')
    expect(of('1000', 'Look', '-1', 'true', '200', '', '', '1')).toBe('“-1” is no duration in ms')
    expect(of('1000', 'Look', '1', '', '200', '', '', '1')).toBe('it does not say whether it was right')
    expect(of('1000', 'Look', '1', 'true', '20x', '', '', '1')).toBe('“20x” is no status')
    expect(() => cellsOfRow(reading, ['t', 's'])).toThrow('There is no column “d”')
  })

  it('is right by its status where nothing else says so; failures are told apart by status and words', () => {
    const byStatus = rowReader({ ...reading, columns: { time: 't', status: 'c' } }, 'x')
    const cells = cellsOfRow({ ...reading, columns: { time: 't', status: 'c' } }, ['t', 'c'])
    expect([byStatus(cells(['1', '302'])), byStatus(cells(['1', '404']))]).toMatchObject([{ ok: true }, { ok: false }])
    expect(failureOf({ status: 503, message: '' })).toBe('status')
    expect(failureOf({ status: 0, message: 'connect ECONNREFUSED: refused' })).toBe('refused')
    expect(failureOf({ status: 0, message: 'Request timed out' })).toBe('timeout')
    expect(failureOf({ status: 200, message: 'no such course' })).toBe('expectation')
    expect(failureOf({ status: 0, message: 'who knows' })).toBe('other')
  })

  it('a moment is written in many ways', () => {
    // RFC 3339, section 5.8, first example; and the same with a blank, as its section 5.6 allows.
    expect(momentMs('1985-04-12T23:20:50.52Z', 'iso')).toBe(482_196_050_520)
    expect(momentMs('1985-04-12 23:20:50.52Z', 'iso')).toBe(482_196_050_520)
    expect(momentMs('482196050.52', 's')).toBeCloseTo(482_196_050_520, 0)
  })
})

describe('access logs', () => {
  it('the common form, with its zone', () => {
    // The line that manuals of web servers explain the form by (common practice, no source).
    const read = readAccessLine('127.0.0.1 - frank [10/Oct/2000:13:55:36 -0700] "GET /picture.gif HTTP/1.0" 200 2326')
    expect(read).toMatchObject({
      step: 'GET /picture.gif', beganMs: Date.UTC(2000, 9, 10, 20, 55, 36), durationMs: undefined, ok: true, status: 200, bytes: 2326, user: 'frank',
    })
  })

  it('the combined form, with and without how long it took', () => {
    const line = '10.0.0.7 - - [02/Jan/2026:08:00:01 +0100] "POST /orders/4711/items?x=1 HTTP/1.1" 503 - "https://a.example/" "Some \\"browser\\""'
    expect(readAccessLine(line)).toMatchObject({ step: 'POST /orders/{id}/items', status: 503, ok: false, bytes: 0, user: '', durationMs: undefined })
    expect(readAccessLine(`${line} 0.182`)).toMatchObject({ durationMs: 182 })
    expect(readAccessLine(`${line} 182000`)).toMatchObject({ durationMs: 182 })
    expect(readAccessLine('hello')).toBe('it is no line of an access log in the common or combined form')
  })

  it('what looks like an id is no part of a step’s name', () => {
    expect(stepOfRequest('GET', '/a/550e8400-e29b-41d4-a716-446655440000/b#c')).toBe('GET /a/{id}/b')
  })
})

it('HAR: an entry without status failed, and one that is none says why', () => {
  const entry = { startedDateTime: '2026-01-02T10:00:00.000Z', time: 182.5, request: { method: 'GET', url: 'https://a.example/x?y=1', bodySize: 0 }, response: { status: 200, content: { size: 12 } } }
  expect(samplesOfHar(JSON.stringify({ log: { entries: [entry, { ...entry, response: { status: 0 } }, { ...entry, time: 'long' }] } }))).toMatchObject([
    { step: 'GET /x', ok: true, durationMs: 182.5, bytes: 12 },
    { ok: false, status: 0 },
    'its time is no number of milliseconds',
  ])
  expect(() => samplesOfHar('{}')).toThrow('no log with entries')
})

describe('the run they become', () => {
  const document = () =>
    claimedDocument({
      name: 'From the branches!', steps: [], lengthS: 60, peakUsers: 3,
      senders: [{ name: 'a', place: 'branch office', how: 'file' }, { name: 'b', place: 'brandenburg', how: 'file' }, { name: 'c', place: '東京', how: 'file' }],
    })

  it('each place has three letters of its own; runs of one name are repeats', () => {
    expect(document().plan.locations.map(l => l.code)).toEqual(['BRA', 'BRG', 'PAA'])
    expect(planIdOf('From the branches!')).toBe(planIdOf('from  the branches'))
  })

  it('a series keeps its number, whatever comes up later', () => {
    const series = new ClaimedSeries(document())
    expect([series.of(0, 'Look'), series.of(1, 'Look'), series.of(0, 'Ask'), series.of(1, 'Look')]).toEqual([0, 1, 2, 1])
    const grown = series.grownDocument(document())!
    expect(series.grownDocument(grown)).toBeUndefined()
    const again = new ClaimedSeries(grown)
    expect([again.of(0, 'Ask'), again.of(2, 'New')]).toEqual([2, 3])
    const both = again.grownDocument(grown)!
    expect(seriesOf(both).map(s => [s.location, s.stepName])).toEqual([[0, 'Look'], [1, 'Look'], [0, 'Ask'], [2, 'New']])
    expect(seriesOf(both).slice(0, 3)).toEqual(seriesOf(grown))
  })

  it('steps beyond those that are told apart are filed together, and counted', () => {
    const series = new ClaimedSeries(document(), 2)
    expect(['a', 'b', 'c', 'd'].map(step => series.of(0, step))).toEqual([0, 1, 2, 2])
    expect(seriesOf(series.grownDocument(document())!).at(-1)!.stepName).toBe('other steps')
  })
})
