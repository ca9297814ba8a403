/**
 * Machines for the peak while a run loads: what they are told, when they are given up, whom their users go to, and when
 * they are given back.
 */
import { loading } from '../../control/run/loading'
import { standDown } from '../../control/run/peak-shifts'
import type { RunDocument } from '../../core/run/document'
import type { LoadProfile } from '../../core/load/profile'
import { ownFolder } from '../build/folder'
import { plan, runDocument } from '../build/plans'
import { stageIn } from '../build/stage'
import type { ActiveRun } from '../../control/run/active-run'
import type { Part } from '../../control/run/parts'

const folder = ownFolder()
const stores: { close(): void }[] = []
afterAll(() => stores.forEach(s => s.close()))

/** 10 users for 300 s, 30 from second 100 to second 200. */
const TOWER: LoadProfile = {
  startDelayMs: 0,
  segments: [
    { to: 10, overMs: 0 },
    { to: 10, overMs: 100_000 },
    { to: 30, overMs: 0 },
    { to: 30, overMs: 100_000 },
    { to: 10, overMs: 0 },
    { to: 10, overMs: 100_000 },
  ],
}
const TYPE = { name: 'brisk-1', vcpu: 1, memoryMb: 2048, pricePerHour: 0.06, billingGrainS: 60 }
const SHIFT = { fromMs: 100_000, toMs: 200_000, leadMs: 40_000, above: { A: 10 }, others: 10 }
/** REY: one all through, two for the peak; TAV: one, with nobody. */
const document = (over: Partial<RunDocument> = {}): RunDocument =>
  runDocument({
    plan: plan({
      groups: [{ letter: 'A', name: 'A', journeyId: 'look', profile: TOWER }],
      placement: { A: { REY: 10_000 } },
    }),
    fleet: [
      { location: 'REY', type: TYPE, machines: 1, carries: 12 },
      { location: 'REY', type: TYPE, machines: 2, carries: 14, shift: SHIFT },
      { location: 'TAV', type: TYPE, machines: 1, carries: 10 },
    ],
    ...over,
  })

/** The run has begun; the two for the peak are ordered and have not come. */
function underLoad() {
  const s = stageIn(folder, document())
  stores.push(s)
  s.all('allocated', 'enrolled', 'rollCallPassed', 'loadStarted')
  for (const c of s.connections.values()) c.work = { state: 'loading', runId: '1' }
  s.run.stored.startAt = s.now()
  ;(s.run.stored as { state: string }).state = 'loading'
  s.order('REY', 1)
  s.order('REY', 2)
  const look = () => loading(s.run, s.tools)
  const came = (id: string) => {
    for (const event of ['allocated', 'enrolled'] as const) s.change(id, event, 'made up')
    s.connect(id, 300)
  }
  /** It has joined. */
  const joined = (id: string) => {
    came(id)
    s.change(id, 'rollCallPassed', 'made up')
    s.connections.get(id)!.work = { state: 'loading', runId: '1' }
    look()
  }
  const events = () =>
    s.runs
      .changes(1)
      .filter(c => c.from === c.to)
      .map(c => [c.event, c.reason])
  return { ...s, look, came, joined, events }
}

const numbersOf = (run: ActiveRun, ...are: Part['is'][]) => run.parts.all(...are).map(([number]) => number)

describe('machines for the peak', () => {
  it('have their numbers before they come, and are not missed before', () => {
    const { run, look, events } = underLoad()
    expect(look()).toBeUndefined()
    expect(run.generators.map(g => [g.name, g.joinsS])).toEqual([
      ['REY-1', undefined],
      ['REY-2', 100],
      ['REY-3', 100],
      ['TAV-1', undefined],
    ])
    expect(numbersOf(run, 'coming')).toEqual([1, 2])
    expect(numbersOf(run, 'gone', 'absent')).toEqual([])
    expect(events()).toEqual([])
  })

  it('are called, given their part, and told when the run began on their own clock', () => {
    const { run, look, came, answer, said, connections, events, move } = underLoad()
    look()
    move(70_000)
    came('REY-2')
    look()
    answer('REY-2')
    look()
    look()
    connections.get('REY-2')!.work = { state: 'prepared', runId: '1' }
    look()
    look()
    const mine = said.filter(([id]) => id === 'REY-2').map(([, m]) => m)
    expect(mine.map(m => m.kind)).toEqual(['rollCall', 'prepare', 'go'])
    expect(mine[1]).toMatchObject({
      post: { location: 0, generator: 1 },
      generators: [[12, 14, 14], [10]],
      supplies: { generator: 1, generators: 4 },
    })
    expect(mine[2]).toMatchObject({ startAt: run.stored.startAt! + 300 })
    connections.get('REY-2')!.work = { state: 'loading', runId: '1' }
    look()
    expect(numbersOf(run, 'coming')).toEqual([2])
    expect(events()).toEqual([['generatorJoined', 'REY-2 has joined for the peak.']])
  })

  it('test themselves only where no sibling of their type has', () => {
    const asked = (siblingTested: boolean) => {
      const { run, tools, look, came, answer, said } = underLoad()
      Object.assign(tools, { selfTestS: 20 })
      run.document = { ...run.document, sizedBy: [{ location: 'REY', basis: 'assumed', capacities: [] }] }
      tools.rollCaller.ask(
        tools.machines.machine('REY-1')!,
        tools.hub.connections.get('REY-1')!,
        { hosts: [], addressRanges: [], runtimes: [] },
        run.id,
      )
      answer('REY-1', siblingTested ? { selfTest: { requests: 9, cpuUsPerRequest: 100, mostPerS: 900 } } : {})
      look()
      came('REY-2')
      look()
      return said.flatMap(([id, m]) => (id === 'REY-2' && m.kind === 'rollCall' ? [m.selfTestS] : []))
    }
    expect([asked(true), asked(false)]).toEqual([[0], [20]])
  })

  it('are said to be late once, and given up when the peak is over: their users have nowhere to go', () => {
    const { run, look, move, events, released } = underLoad()
    look()
    move(106_000)
    look()
    look()
    expect(events().map(([e, r]) => [e, r!.slice(0, 40)])).toEqual([
      ['generatorLate', 'REY-2 is asked when its users should com'],
      ['generatorLate', 'REY-3 is asked when its users should com'],
    ])
    move(95_000)
    look()
    expect([numbersOf(run, 'coming'), numbersOf(run, 'absent'), released]).toEqual([[], [1, 2], ['REY-2', 'REY-3']])
    expect(events().filter(([e]) => e === 'generatorAbsent')).toHaveLength(2)
    // What is over is over: nobody is told twice.
    look()
    expect(events().filter(([e]) => e === 'generatorAbsent')).toHaveLength(2)
  })

  it('that cannot do their part, or fail the roll call, are given up at once; others for the peak take their users as far as they carry them', () => {
    const { run, look, came, joined, answer, events, said } = underLoad()
    look()
    joined('REY-2')
    came('REY-3')
    look()
    answer('REY-3', { nonce: 'not what was asked' })
    look()
    look()
    expect(numbersOf(run, 'absent')).toEqual([2])
    // Of its 10 users 4 go to REY-2, which carries 14 and has 10, and 2 to REY-1, which carries 12.
    const [, reason] = events().find(([e]) => e === 'generatorAbsent')!
    expect(reason).toContain(
      '6 of its 10 users go to REY-1, REY-2; 4 are shed: the others would be past what they carry.',
    )
    expect(
      said
        .filter(([, m]) => m.kind === 'takeOver')
        .map(([id, m]) => [id, m.kind === 'takeOver' && m.lost.map(l => l.users.length)]),
    ).toEqual([
      ['REY-1', [2]],
      ['REY-2', [4]],
    ])
  })

  it('take no users of those that are there all through: they leave before them', () => {
    const { look, joined, change, events, said } = underLoad()
    look()
    joined('REY-2')
    joined('REY-3')
    change('REY-1', 'stoppedAnswering', 'made up')
    look()
    expect(events().find(([e]) => e === 'generatorLost')![1]).toContain(
      'None of its 10 users go elsewhere; 10 are shed',
    )
    expect(said.filter(([, m]) => m.kind === 'takeOver')).toEqual([])
  })

  it('are given back 5 s after their last frame is safe, while the run goes on', () => {
    const { run, look, joined, move, states, released } = underLoad()
    look()
    joined('REY-2')
    run.parts.finish(1)
    look()
    expect(states()).toEqual(['loading', 'ready', 'asked', 'loading'])
    expect(released).toEqual([])
    move(5000)
    expect(look()).toBeUndefined()
    expect(released).toEqual(['REY-2'])
  })

  it('are not needed when the run is ended before they join; one that has just begun is sent home like the others', () => {
    const { run, tools, look, came, change, connections, released } = underLoad()
    look()
    came('REY-3')
    change('REY-3', 'rollCallPassed', 'made up')
    connections.get('REY-3')!.work = { state: 'loading', runId: '1' }
    standDown(run, tools)
    expect(released).toEqual(['REY-2'])
    expect(numbersOf(run, 'coming')).toEqual([1])
    expect(tools.machines.machine('REY-3')!.state).toBe('loading')
  })
})
