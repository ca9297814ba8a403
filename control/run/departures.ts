/**
 * Generators that leave a run under load: lost, or taken back by their provider. The merge is told, what they bore goes to others, and it is said. Who takes
 * the run up reads from its events who has gone, and comes to the same shares as who led it before.
 */
import type { Machine } from '../store/machines'
import { limitRates, takeOver } from './take-over'
import { runSecond, type ActiveRun, type PhaseTools } from './active-run'

/** Users of a machine that is taken back begin to leave this long before, ms. */
const LEAVE_BEFORE_MS = 8000

interface Departure {
  number: number
  machine: Machine
  kind: 'lost' | 'takenBack'
  at: number
  why: string
  /** It is among the run's events: the others have learned of it. */
  told: boolean
}

/** At every look while the run loads or drains. */
export function noteDepartures(run: ActiveRun, tools: PhaseTools): void {
  // In the order in which they went.
  for (const departure of departuresOf(run, tools).sort((a, b) => a.at - b.at)) {
    if (departure.kind === 'lost') lose(run, tools, departure)
    else handOver(run, tools, departure)
  }
}

function departuresOf(run: ActiveRun, { machines, runs, clock }: PhaseTools): Departure[] {
  const now = clock.now()
  const told = (event: string, beginning: string) => runs.changes(run.id).find(c => c.event === event && c.reason.startsWith(beginning))
  return run.generators.flatMap(({ machineId, name }, number): Departure[] => {
    const machine = run.coming.has(number) ? undefined : machines.machine(machineId)
    if (!machine) return []
    const found: Departure[] = []
    const isHere = ['loading', 'draining', 'ready'].includes(machine.state)
    if (machine.reclaimAt !== undefined && now >= machine.reclaimAt - LEAVE_BEFORE_MS && !run.leaving.has(number)) {
      const before = told('usersMoved', `${name} is taken back: `)
      if (before || (isHere && !run.finished.has(number))) found.push({ number, machine, kind: 'takenBack', at: before?.at ?? now, why: '', told: before !== undefined })
    }
    if (!isHere && !run.goneAtSecond.has(number) && !run.finished.has(number)) {
      const change = machines.changes(machineId).findLast(c => c.to === machine.state)
      found.push({ number, machine, kind: 'lost', at: change?.at ?? now, why: change?.reason ?? machine.state, told: told('generatorLost', `${name} is `) !== undefined })
    }
    return found
  })
}

/** It will say nothing more. */
function lose(run: ActiveRun, tools: PhaseTools, { number, machine, why, told }: Departure): void {
  const { ingest, clock, runs } = tools
  run.goneAtSecond.set(number, Math.max(0, runSecond(run, clock)))
  ingest.leave(run.id, number)
  const moved = isMoved(run) ? takeOver(run, number, tools, told) : undefined
  const limited = limitRates(run)
  if (!told) runs.remark(run.id, run.stored.state, 'generatorLost', [`${machine.name} is ${machine.state}: ${why}.`, moved ?? 'Its users are missing from now on.', ...(limited ? [limited] : []), 'Its account is closed openly.'].join(' '), clock.now())
}

/** Its users leave while it can still say so. */
function handOver(run: ActiveRun, tools: PhaseTools, { number, machine, told }: Departure): void {
  const { hub, clock, runs } = tools
  run.leaving.add(number)
  // Told twice it does no more than told once: a server may end between saying and writing.
  if (!run.finished.has(number)) hub.connections.get(machine.id)?.say({ kind: 'drain', runId: String(run.id), reason: 'its machine is taken back' })
  if (!isMoved(run)) return
  const moved = takeOver(run, number, tools, told)
  const said = [moved?.replace(/^N/, 'n'), limitRates(run)].filter(s => s !== undefined).join(' ')
  if (said && !told) runs.remark(run.id, run.stored.state, 'usersMoved', `${machine.name} is taken back: ${said}`, clock.now())
}

/** A calibration wants just its own machine, and in the end everybody leaves anyway. */
function isMoved({ stored, document }: ActiveRun): boolean {
  return stored.state !== 'draining' && document.calibration === undefined
}
