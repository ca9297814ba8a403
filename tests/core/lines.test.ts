/** Lines and patterns by which commands and programs tell figures. */
import { sourceFaults, type Source } from '../../core/target/source'
import { byMoment, readLines, samplesOfPattern } from '../../core/target/lines'
import { compileExpression } from '../../core/values/expression'
import { SourceReadings } from '../../core/target/readings'

describe('lines “name value [time]”', () => {
  it('carry labels, s, ms and ISO 8601 moments; remarks and empty lines are nothing', () => {
    const { samples, faults } = readLines(
      '# what it is\n\nqueue.depth 4\nsockets{state="open",of="a b"} 12 1700000000\nused 1e3 1700000000500\nused -0.5 2023-11-14T22:13:21Z\n',
    )
    expect(faults).toEqual([])
    expect(samples).toEqual([
      { name: 'queue.depth', labels: {}, value: 4 },
      { name: 'sockets', labels: { state: 'open', of: 'a b' }, value: 12, atMs: 1_700_000_000_000 },
      { name: 'used', labels: {}, value: 1000, atMs: 1_700_000_000_500 },
      { name: 'used', labels: {}, value: -0.5, atMs: 1_700_000_001_000 },
    ])
  })

  it.each([
    ['open', 'Line 2: after the name come a value and at most one moment.'],
    ['open four', 'Line 2: “four” is no number.'],
    ['open 4 soon', 'Line 2: “soon” is no moment: s or ms since 1970, or ISO 8601.'],
    ['open{a=b} 4', 'Line 2: its labels cannot be read.'],
    ['{} 4', 'Line 2 begins with no name.'],
    ['open 4 5 6', 'Line 2: after the name come a value and at most one moment.'],
  ])('“%s” is told by its line, and costs none of the others', (line, sentence) => {
    const { samples, faults } = readLines(`a 1\n${line}\nb 2`)
    expect(faults.map(f => f.sentence)).toEqual([sentence])
    expect(samples.map(s => s.name)).toEqual(['a', 'b'])
  })

  it('are read no further than a thousand that are none, nor beyond as many as are wanted', () => {
    const none = 'x\n'.repeat(2000)
    const { samples, faults } = readLines(`a 1\n${none}b 2`)
    expect([samples.map(s => s.name), faults.length]).toEqual([['a'], 1000])
    expect(readLines('a 1\n'.repeat(50), 10).samples).toHaveLength(11)
  })

  it('of one moment are one reading; told twice, the later counts', () => {
    const moments = byMoment(readLines('a 1 1700000002\na 2 1700000001\na 3 1700000002\nb 4 1700000002\nc 5').samples)
    expect(moments.map(m => [m.atMs, m.samples.map(s => `${s.name} ${s.value}`)])).toEqual([
      [1_700_000_001_000, ['a 2']],
      [1_700_000_002_000, ['a 3', 'b 4']],
      [undefined, ['c 5']],
    ])
  })

  it('each moment is a point; a counter grows from one to the next, and one that goes down began anew', () => {
    const readings = new SourceReadings(
      { kind: 'sent', series: [{ name: 'calls', of: 'calls', kind: 'count' }, { name: 'open', of: 'open', kind: 'gauge' }] },
      1,
    )
    const take = (text: string, at: number) => readings.takeMoments(byMoment(readLines(text).samples), at)
    expect(take('calls 10 1700000000\nopen 3 1700000000', 0).points).toEqual([
      { series: 0, split: '', atMs: 1_700_000_000_000, value: 0 },
      { series: 1, split: '', atMs: 1_700_000_000_000, value: 3 },
    ])
    const { points, beganAnew } = take('calls 15 1700000001\ncalls 4 1700000002', 0)
    expect(points.map(p => p.value)).toEqual([5, 9])
    expect(beganAnew).toBe(true)
    // What is told again tells nothing new.
    expect(take('calls 4 1700000002', 0).points).toEqual([])
  })
})

describe('patterns over what a command writes', () => {
  // As socket listings look (ss -tan of iproute2), shortened.
  const listing = 'State  Recv-Q\nLISTEN 0 128 0.0.0.0:80\nESTAB 0 0 10.0.0.1:80\nESTAB 0 0 10.0.0.1:80\nTIME-WAIT 0 0 10.0.0.1:80\n'
  const told = (pattern: string, text = listing) =>
    Object.fromEntries(
      samplesOfPattern(text, compileExpression(pattern)).map(s => [Object.values(s.labels).join(), s.value]),
    )
  it('count their matches, by the groups with names', () => {
    expect(told('(?m)^(?:LISTEN|ESTAB|TIME-WAIT) ')).toEqual({ '': 4 })
    expect(told('(?m)^(?<state>[A-Z-]+) +\\d')).toEqual({ LISTEN: 1, ESTAB: 2, 'TIME-WAIT': 1 })
  })
  it('take the first group without a name as the value', () => {
    expect(told('estab (\\d+)', 'TCP: 12 (estab 7, closed 1)')).toEqual({ '': 7 })
    expect(told('(?<pool>\\w+)=(\\d+)', 'web=3 db=4 web=2')).toEqual({ web: 5, db: 4 })
    expect(told('open (\\w+)', 'open many')).toEqual({})
  })
})

it('a command without a host, a line or a pattern that can be read is told where it is', () => {
  const source = (over: Partial<Source>): Source =>
    ({ name: 's', kind: 'command', address: 'site/host', command: 'ss', everyS: 1, series: [{ name: 'a', of: 'a', kind: 'gauge' }], ...over })
  const faults = (over: Partial<Source>) => sourceFaults([source(over)]).map(f => f.sentence)
  expect(faults({})).toEqual([])
  expect(faults({ address: '' })).toEqual(['s names no host.'])
  expect(faults({ command: ' ' })).toEqual(['s has no command.'])
  expect(faults({ byPattern: true, series: [{ name: 'a', of: '(', kind: 'gauge' }] })[0]).toContain('a: ')
  expect(faults({ series: [{ name: 'a', of: 'a', kind: 'p95' }] })).toEqual(['a: a command on a host gives no histograms.'])
  expect(faults({ kind: 'sent', address: '', series: [{ name: 'a', of: 'a', kind: 'p95' }] })).toEqual([])
})
