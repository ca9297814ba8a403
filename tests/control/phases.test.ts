/**
 * Each phase of a run by itself: what it tells generators, once, and what makes it end. Machines and answers are made
 * up; the store is real.
 */
import type { Connection } from '../../control/link/generator-hub'
import { arming } from '../../control/run/arming'
import { gathering } from '../../control/run/gathering'
import type { CommandJourney } from '../../core/journey/journey'
import { rehearsal } from '../../control/run/rehearsal'
import { rollCall } from '../../control/run/roll-call'
import type { RollCallReport } from '../../core/fleet/roll-call'
import type { RunDocument } from '../../core/run/document'
import type { ToGenerator } from '../../protocol/messages'
import { ownFolder } from '../build/folder'
import { journey, plan, runDocument } from '../build/plans'
import { REACHED, stageIn } from '../build/stage'

const folder = ownFolder()
const stores: { close(): void }[] = []
afterAll(() => stores.forEach(s => s.close()))

function stage(document?: RunDocument) {
  const made = stageIn(folder, document)
  stores.push(made)
  return made
}
const kinds = (said: [string, ToGenerator][]) => said.map(([id, m]) => `${id} ${m.kind}`)

describe('gathering', () => {
  it('is over when every machine has enrolled, not before', () => {
    const { run, tools, all, change } = stage()
    expect(gathering(run, tools)).toBeUndefined()
    all('allocated')
    change('REY-1', 'enrolled', 'made up')
    expect(gathering(run, tools)).toBeUndefined()
    change('TAV-1', 'enrolled', 'made up')
    expect(gathering(run, tools)).toEqual({ event: 'machinesReady', reason: '2 machines have enrolled' })
  })

  it('says what is lacking and why, when the plan’s patience is over', () => {
    const { run, tools, change, move } = stage(runDocument({ plan: plan({ waitForMachinesMin: 3 }) }))
    for (const e of ['allocated', 'enrolled'] as const) change('REY-1', e, 'made up')
    change('TAV-1', 'refused', 'The quota is used up.')
    expect(gathering(run, tools)).toBeUndefined()
    move(3 * 60_000 + 1)
    expect(gathering(run, tools)).toEqual({
      event: 'machinesLacking',
      reason: 'lacks 1 of 1 brisk-1 at TAV: The quota is used up.',
    })
  })
})

describe('roll call', () => {
  it('asks each generator once, and is over when all reach the target and their clocks are known', () => {
    const { run, tools, said, all, states, answer } = stage()
    all('allocated', 'enrolled')
    rollCall(run, tools)
    rollCall(run, tools)
    expect(kinds(said)).toEqual(['REY-1 rollCall', 'TAV-1 rollCall'])
    answer('REY-1')
    expect(rollCall(run, tools)).toBeUndefined()
    answer('TAV-1')
    expect(rollCall(run, tools)).toMatchObject({ event: 'rollCalled' })
    expect(states()).toEqual(['ready', 'ready'])
  })

  it('asks one that comes back again, with another nonce', () => {
    const { run, tools, said, all, connections } = stage()
    all('allocated', 'enrolled')
    rollCall(run, tools)
    connections.set('REY-1', { ...connections.get('REY-1')! })
    rollCall(run, tools)
    expect(kinds(said)).toEqual(['REY-1 rollCall', 'TAV-1 rollCall', 'REY-1 rollCall'])
    const nonces = said.map(([, m]) => (m as { nonce: string }).nonce)
    expect(new Set(nonces).size).toBe(3)
  })

  it('goes straight on where the plan skips the rehearsal, and says so', () => {
    const { run, tools, all, answer } = stage(runDocument({ plan: plan({ rehearse: false }) }))
    all('allocated', 'enrolled')
    rollCall(run, tools)
    for (const id of ['REY-1', 'TAV-1']) answer(id)
    expect(rollCall(run, tools)).toEqual({
      event: 'rollCalledOnly',
      reason: 'every generator answered; the plan skips the rehearsal',
    })
  })

  it.each<[string, Partial<RollCallReport>, string]>([
    [
      'does not reach the target',
      { reached: [{ ...REACHED, ok: false, connectMs: 3000, problem: 'refused' }] },
      'REY-1 is unfit: does not reach 127.0.0.1:1: refused',
    ],
    [
      'lacks a program',
      { runtimes: [{ program: 'python3', ok: false, said: 'is not installed' }] },
      'REY-1 is unfit: python3 is not installed',
    ],
    ['repeats an old answer', { nonce: 'yesterday' }, 'REY-1 is unfit: answered another roll call than this one'],
  ])('finds a machine unfit that %s', (_, over, reason) => {
    const { run, tools, all, states, answer } = stage()
    all('allocated', 'enrolled')
    rollCall(run, tools)
    answer('REY-1', over)
    // The other is heard first: what is wrong with one may be wrong with all.
    expect(rollCall(run, tools)).toBeUndefined()
    expect(states()).toEqual(['unfit', 'enrolled'])
    answer('TAV-1')
    expect(rollCall(run, tools)).toEqual({ event: 'rollCallFailed', reason: expect.stringContaining(reason) })
  })

  it('does not wait for ever for one that says nothing', () => {
    const { run, tools, all, move, answer } = stage()
    all('allocated', 'enrolled')
    rollCall(run, tools)
    answer('REY-1')
    expect(rollCall(run, tools)).toBeUndefined()
    move(31_000)
    expect(rollCall(run, tools)).toEqual({ event: 'rollCallFailed', reason: 'TAV-1 did not answer the roll call' })
  })
})

describe('rehearsal', () => {
  const right = { journeyId: 'look', step: 'Look', ok: true, status: 200, durationMs: 12 }
  it('sends one user from each location, and tells the slowest step', () => {
    const { run, tools, said, all } = stage()
    all('allocated', 'enrolled', 'rollCallPassed')
    expect(rehearsal(run, tools)).toBeUndefined()
    expect(kinds(said)).toEqual(['REY-1 rehearse', 'TAV-1 rehearse'])
    run.rehearsals.set('REY-1', [right, { ...right, step: 'Ask', durationMs: 40 }])
    expect(rehearsal(run, tools)).toBeUndefined()
    run.rehearsals.set('TAV-1', [right])
    expect(rehearsal(run, tools)).toEqual({
      event: 'rehearsed',
      reason: 'every step was right from REY, TAV; slowest: Ask, 40 ms',
    })
    expect(tools.runs.run(run.id)!.rehearsed).toBe(true)
  })

  it('says of a command that it never ran, and leaves the verdict to weigh that', () => {
    const command: CommandJourney = {
      schema: 'vornak-journey/1',
      kind: 'command',
      id: 'look',
      name: 'Look by command',
      kit: 'a'.repeat(64),
      runtimes: [],
      run: ['x'],
      steps: ['Look'],
      bringBack: [],
    }
    const { run, tools, all } = stage(runDocument({ journeys: [command] }))
    all('allocated', 'enrolled', 'rollCallPassed')
    rehearsal(run, tools)
    for (const id of ['REY-1', 'TAV-1']) run.rehearsals.set(id, [])
    expect(rehearsal(run, tools)).toEqual({
      event: 'rehearsed',
      reason: 'nothing was rehearsed; not rehearsed: Look by command, for a command runs under load only',
    })
    expect(tools.runs.run(run.id)!.rehearsed).toBe(false)
  })

  it('ends the run where a step is wrong, with the step, the place and what was wrong', () => {
    const { run, tools, all } = stage()
    all('allocated', 'enrolled', 'rollCallPassed')
    run.rehearsals.set('REY-1', [right, { ...right, step: 'Ask', ok: false, problem: 'answered 500' }])
    expect(rehearsal(run, tools)).toEqual({ event: 'rehearsalFailed', reason: 'Ask from REY: answered 500' })
  })

  it('gives up after its time', () => {
    const { run, tools, all, move } = stage()
    all('allocated', 'enrolled', 'rollCallPassed')
    move(121_000)
    expect(rehearsal(run, tools)).toEqual({ event: 'rehearsalFailed', reason: 'not over after 120 s' })
  })
})

describe('arming', () => {
  const armed = (document?: RunDocument) => {
    const s = stage(document)
    s.all('allocated', 'enrolled', 'rollCallPassed')
    const set = (state: Connection['work']['state']) => {
      for (const c of s.connections.values()) c.work = { state, runId: String(s.run.id) }
    }
    return { ...s, set }
  }

  it('gives every generator its post and supplies, then one moment, each on its own clock', () => {
    const { run, tools, said, set, move, states, opened } = armed()
    expect(arming(run, tools)).toBeUndefined()
    expect(
      said.map(
        ([id, m]) => m.kind === 'prepare' && [id, m.post, m.generators, m.supplies.generator, m.supplies.generators],
      ),
    ).toEqual([
      ['REY-1', { location: 0, generator: 0 }, [[1], [1]], 0, 2],
      ['TAV-1', { location: 1, generator: 0 }, [[1], [1]], 1, 2],
    ])
    expect(opened).toHaveLength(1)
    said.length = 0
    set('prepared')
    expect(arming(run, tools)).toBeUndefined()
    const { startAt } = run.stored
    expect(said).toEqual([
      ['REY-1', { kind: 'go', runId: '1', startAt: startAt! + 100 }],
      ['TAV-1', { kind: 'go', runId: '1', startAt: startAt! + 200 }],
    ])
    set('loading')
    expect(arming(run, tools)).toBeUndefined()
    move(1600)
    expect(arming(run, tools)).toEqual({ event: 'started', reason: '2 generators started together' })
    expect(states()).toEqual(['loading', 'loading'])
  })

  it('begins the load only once its target was read at rest for long enough', () => {
    const { run, tools, set, move, now } = armed()
    const restUntil = now() + 9000
    tools.loadNotBefore = () => restUntil
    arming(run, tools)
    set('prepared')
    arming(run, tools)
    expect(run.stored.startAt).toBe(restUntil)
    set('loading')
    move(8900)
    expect(arming(run, tools)).toBeUndefined()
    move(200)
    expect(arming(run, tools)).toMatchObject({ event: 'started' })
  })

  it('ends the run when a generator cannot do its part, and lets the others go', () => {
    const { run, tools, said } = armed()
    arming(run, tools)
    said.length = 0
    run.unprepared.set('TAV-1', 'The kit is not taken: it is empty.')
    expect(arming(run, tools)).toEqual({
      event: 'armingFailed',
      reason: 'TAV-1 cannot do its part: The kit is not taken: it is empty.',
    })
    expect(kinds(said)).toEqual(['REY-1 abort', 'TAV-1 abort'])
  })

  it('ends the run when a generator is lost before the start', () => {
    const { run, tools, change } = armed()
    change('REY-1', 'stoppedAnswering', 'made up')
    expect(arming(run, tools)).toEqual({ event: 'armingFailed', reason: 'REY-1 is lost' })
  })

  it('ends the run when one is never prepared, or does not go', () => {
    const { run, tools, set, move } = armed()
    arming(run, tools)
    move(61_000)
    expect(arming(run, tools)).toEqual({ event: 'armingFailed', reason: 'REY-1, TAV-1 not prepared after 60 s' })
    const second = armed()
    second.set('prepared')
    arming(second.run, second.tools)
    second.move(5000)
    expect(arming(second.run, second.tools)).toEqual({ event: 'armingFailed', reason: 'REY-1, TAV-1 did not start' })
    set('idle')
  })

  it('begins with warming where the plan has a warm-up', () => {
    const warm = runDocument({
      journeys: [journey()],
      plan: plan({
        groups: [
          {
            letter: 'A',
            name: 'A',
            journeyId: 'look',
            profile: {
              startDelayMs: 0,
              segments: [
                { to: 5, overMs: 1000, warmUp: true },
                { to: 5, overMs: 1000 },
              ],
            },
          },
        ],
      }),
    })
    const { run, tools, set, move } = armed(warm)
    set('prepared')
    arming(run, tools)
    set('loading')
    move(1600)
    expect(arming(run, tools)).toMatchObject({ event: 'startedWarm' })
  })
})
