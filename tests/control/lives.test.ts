/** The tables of the two state machines: no road leaves them, and every life ends. */
import fc from 'fast-check'
import { afterEvent, IN_HAND, MACHINE_LIFE, type MachineEvent, type MachineState } from '../../core/run/machine-life'
import { afterRunEvent, ENDED, RUN_LIFE, type RunEvent, type RunState } from '../../core/run/life'

const machineStates = Object.keys(MACHINE_LIFE) as MachineState[]
const machineEvents = [...new Set(Object.values(MACHINE_LIFE).flatMap(r => Object.keys(r)))] as MachineEvent[]
const runStates = Object.keys(RUN_LIFE) as RunState[]
const runEvents = [...new Set(Object.values(RUN_LIFE).flatMap(r => Object.keys(r)))] as RunEvent[]

/** All states reachable from one. */
function reachable<S extends string>(from: S, next: (state: S) => S[]): Set<S> {
  const seen = new Set<S>([from])
  const visit = [from]
  while (visit.length > 0)
    for (const s of next(visit.pop()!))
      if (!seen.has(s)) {
        seen.add(s)
        visit.push(s)
      }
  return seen
}
const afterMachine = (s: MachineState) => Object.values(MACHINE_LIFE[s]) as MachineState[]
const afterRun = (s: RunState) => Object.values(RUN_LIFE[s]).map(m => m!.to)

describe('a machine’s life', () => {
  it('reaches every state from asked, and never a state the table does not have', () => {
    expect([...reachable('asked', afterMachine)].sort()).toEqual([...machineStates].sort())
  })

  it('can be ended from every state in hand: a release is always possible', () => {
    for (const s of IN_HAND) expect(afterEvent(s, 'releaseAsked')).toBe('releasing')
  })

  it('stays in the table under any sequence of events', () => {
    fc.assert(
      fc.property(fc.array(fc.constantFrom(...machineEvents), { maxLength: 40 }), (events) => {
        let state: MachineState = 'asked'
        for (const e of events) state = afterEvent(state, e) ?? state
        return machineStates.includes(state)
      }),
    )
  })

  it('counts a machine that was lost, refused or released as gone for the run, for good', () => {
    for (const s of ['lost', 'refused', 'released', 'failed', 'unfit', 'reclaimed'] as const)
      expect([...reachable(s, afterMachine)].filter(x => IN_HAND.includes(x))).toEqual([])
  })
})

describe('a run’s life', () => {
  it('reaches every state from queued; from every state it can end', () => {
    expect([...reachable('queued', afterRun)].sort()).toEqual([...runStates].sort())
    for (const s of runStates) expect([...reachable(s, afterRun)].some(x => ENDED.includes(x))).toBe(true)
  })

  it('gives machines back at every end that follows asking for them', () => {
    for (const s of runStates)
      for (const [event, move] of Object.entries(RUN_LIFE[s])) {
        if (ENDED.includes(move!.to) && s !== 'queued')
          expect([s, event, move!.errands]).toEqual([s, event, ['release']])
      }
  })

  it('never leaves an end', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...ENDED),
        fc.constantFrom(...runEvents),
        (s, e) => afterRunEvent(s, e) === undefined,
      ),
    )
  })

  it('can be stopped and aborted in every state that is not draining or ended', () => {
    for (const s of runStates)
      if (!ENDED.includes(s) && s !== 'draining')
        expect([s, !!afterRunEvent(s, 'stopAsked'), !!afterRunEvent(s, 'abortAsked')]).toEqual([s, true, true])
  })
})
