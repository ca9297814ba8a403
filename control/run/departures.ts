/**
 * Generators that leave a run under load: lost, or taken back by their provider. The merge is told, what they bore goes
 * to others, and it is said.
 */
import type { Machine } from '../store/machines'
import { noteSilence } from './silence'
import { isBare, limitRates, reassign } from './reassignment'
import { runSecond, tellOnce, type ActiveRun, type PhaseTools } from './active-run'

/** Users of a machine that is taken back begin to leave this long before, ms. */
const LEAVE_BEFORE_MS = 8000

/**
 * At every look while the run loads or drains. A process that has just taken the run up notes all once more, and says
 * nothing twice.
 */
export function noteDepartures(run: ActiveRun, tools: PhaseTools): void {
  noteSilence(run, tools)
  const { lost, takenBack } = departuresOf(run, tools)
  // All are known to go before any load is dealt out: nobody takes it who goes too.
  for (const { number, part } of takenBack) run.parts.set(number, { ...part, is: 'leaving' })
  for (const { number } of lost) leave(run, tools, number)
  for (const { number, machine } of takenBack) handOver(run, tools, number, machine)
  for (const { number, machine } of lost) lose(run, tools, number, machine)
  sendAway(run, tools)
}

function departuresOf(run: ActiveRun, { machines, clock }: PhaseTools) {
  const there = run.generators.flatMap(({ machineId }, number) => {
    const part = run.parts.ofThere(number)
    const machine = part && machines.machine(machineId)
    return machine ? [{ number, machine, part }] : []
  })
  return {
    lost: there.filter(({ machine }) => !['loading', 'draining', 'ready'].includes(machine.state)),
    takenBack: there.filter(
      ({ machine, part }) =>
        part.is === 'playing' && machine.reclaimAt !== undefined && clock.now() >= machine.reclaimAt - LEAVE_BEFORE_MS,
    ),
  }
}

/** It will say nothing more. */
function leave(run: ActiveRun, { ingest, clock }: PhaseTools, number: number): void {
  const sinceSecond = Math.max(0, runSecond(run, clock))
  run.parts.set(number, { is: 'gone', sinceSecond, isComplete: false })
  ingest.leave(run.id, number, sinceSecond)
}

function lose(run: ActiveRun, tools: PhaseTools, number: number, machine: Machine): void {
  const { machines, clock, runs } = tools
  runs.together(() => {
    const moved = isMoved(run) ? reassign(run, number, tools) : undefined
    const limited = limitRates(run)
    if (runs.changes(run.id).some(c => c.event === 'generatorLost' && c.about === machine.name)) return
    const why = machines.changes(machine.id).findLast(c => c.to === machine.state)?.reason ?? machine.state
    runs.remark(
      run.id,
      run.stored.state,
      'generatorLost',
      [
        `${machine.name} is ${machine.state}: ${why}.`,
        moved ?? 'Its users are missing from now on.',
        ...(limited ? [limited] : []),
        'Its account is closed openly.',
      ].join(' '),
      clock.now(),
      machine.name,
    )
  })
}

/** Its users go elsewhere while it can still send them away. */
function handOver(run: ActiveRun, tools: PhaseTools, number: number, machine: Machine): void {
  if (!isMoved(run)) return
  const { clock, runs } = tools
  runs.together(() => {
    const isNew = !isBare(run, number)
    const moved = reassign(run, number, tools)
    const said = [moved?.replace(/^N/, 'n'), limitRates(run)].filter(s => s !== undefined).join(' ')
    if (isNew && said)
      runs.remark(
        run.id,
        run.stored.state,
        'usersMoved',
        `${machine.name} is taken back: ${said}`,
        clock.now(),
        machine.name,
      )
  })
}

/** Also on a connection that has only now come back. */
function sendAway(run: ActiveRun, { hub }: PhaseTools): void {
  for (const [number] of run.parts.all('leaving')) {
    const connection = hub.connections.get(run.generators[number]!.machineId)
    if (connection)
      tellOnce(run, connection, 'drain', () =>
        connection.say({ kind: 'drain', runId: String(run.id), reason: 'its machine is taken back' }),
      )
  }
  // Who was given up, and is heard again after all, must not load beside those who took over.
  for (const [number, part] of run.parts.all('gone', 'absent')) {
    const connection =
      part.is === 'gone' && part.isComplete ? undefined : hub.connections.get(run.generators[number]!.machineId)
    if (connection?.work.state === 'loading')
      tellOnce(run, connection, 'drain', () =>
        connection.say({ kind: 'drain', runId: String(run.id), reason: 'it was given up, and others bear its load' }),
      )
  }
}

/** A calibration wants just its own machine, and in the end everybody leaves anyway. */
function isMoved({ stored, document }: ActiveRun): boolean {
  return stored.state !== 'draining' && document.calibration === undefined
}
