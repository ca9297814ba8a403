/**
 * A run that is under way, with what its phases need to know of it. What must survive a restart is in the store; the
 * rest is told again.
 */
import { joinsLate, placesOf } from '../../core/fleet/order'
import type { RunDocument } from '../../core/run/document'
import type { RehearsedStep } from '../../protocol/messages'
import type { Clock } from '../clock'
import type { Connection, GeneratorHub } from '../link/generator-hub'
import type { Fleet } from '../machines/fleet'
import type { RollCaller } from '../link/roll-caller'
import type { Ingest } from '../ingest/ingest'
import type { Library } from '../library/library'
import type { RunGenerator } from '../ingest/run-merge'
import type { Machine, MachineStore } from '../store/machines'
import type { RunStore, Shifted, StoredRun } from '../store/runs'
import type { BrokenStretch } from '../../core/result/stretches'
import type { RunEvent } from '../../core/run/life'
import type { Calibrating } from './calibrating'
import type { Parts } from './parts'
import type { Steering } from './steering'
import type { StressWatch } from '../../core/soundness/stress-watch'
import { present } from '../../core/values/present'

/** What a phase found: the event that ends it, and why. */
export interface Verdict {
  event: RunEvent
  reason: string
}

/** What phases work with. */
export interface PhaseTools {
  clock: Clock
  runs: RunStore
  machines: MachineStore
  hub: GeneratorHub
  fleet: Fleet
  rollCaller: RollCaller
  ingest: Ingest
  library: Library
  runFile: (runId: number) => string
  /**
   * The earliest moment a run's load may begin, ms since 1970, so that its target was read at rest; undefined: at once.
   */
  loadNotBefore: (run: { id: number, document: RunDocument }) => number | undefined
  /** What objectives are about of the target's own figures was read up to the end of the load; it is waited for. */
  targetIsJudgeable: (run: { id: number, document: RunDocument }, endedAt: number) => boolean
  /** File of what was read of it. */
  targetFile: (runId: number) => string
  /** Why no more is to be expected of those who tell of a run from elsewhere; undefined: they go on. */
  toldOver: (runId: number) => string | undefined
  /** Seconds of the self-test of machines that nobody has calibrated; 0: none. */
  selfTestS: number
}

/** Runs that are led, by their numbers. */
export type ActiveRuns = Map<number, ActiveRun>

export interface ActiveRun {
  readonly id: number
  /** Changes where the run goes with fewer machines than it asked for, and as more comes up in what is told. */
  document: RunDocument
  /** As the store has it now. */
  stored: StoredRun
  /** When the present state began, on this process's clock. */
  since: number
  /** Filled when all machines are in hand: their order is what frames and slices refer to. */
  generators: RunGenerator[]
  /** When its target's approval was last looked at, on this process's clock. */
  approvedAt: number
  rehearsals: Map<string, RehearsedStep[]>
  /** Files being brought back, by machine, group and name. */
  comingBack: Map<string, Buffer[]>
  /** Per machine, why it cannot do the work. */
  unprepared: Map<string, string>
  /** What each generator's part in it is, by its number. */
  parts: Parts
  /** Which generator plays what since one was lost; as the store has it. */
  shifted: Map<number, Shifted>
  /** How much of it each connection was told. */
  toldTaken: WeakMap<Connection, number>
  /**
   * Per generator number, what of it was set aside: whether that was told, and how often its link was closed for it.
   */
  asides: Map<number, { told: boolean, links: number, at: number }>
  /** Last thing each connection was told, so that each is told once, and again when it comes back. */
  told: WeakMap<Connection, string>
  /** The merge worker has this run open. */
  merging: boolean
  /** It is not opened again before this moment, ms since 1970; 0: it never had to be. */
  mergeNotBefore: number
  /** Holds request rates, where groups are driven by them. */
  steering: Steering
  /** Tells which generators pass their limits. */
  stress: StressWatch
  /** Where objectives were broken so far; the merge tells it anew after a restart. */
  brokenSoFar: BrokenStretch[]
  /** Leads the levels of a calibration, once it loads; not there when this process has not seen its beginning. */
  calibrating?: Calibrating
  /** Groups whose rate was told not to be reachable. */
  toldNotReached: Set<number>
  /** When gathering was last looked at. */
  lookedAt: number
  /** When the uncertainty of clocks was last noted. */
  clocksNotedAt: number
  /** Leases that end too early have been asked for once. */
  prolonged: boolean
  /** Machines that were searched for what their generator could not send; `under way` while that lasts. */
  salvaged: Map<string, 'under way' | 'done'>
  /** The result is being made. */
  closing: boolean
  /** It was told that the answer waits for the target's own figures. */
  targetAwaited: boolean
  /** How often it could not be, and why the last time. */
  unmade: { times: number, sentence: string }
}

/** Tells a generator something, once per connection. */
export function tellOnce(run: ActiveRun, connection: Connection, what: string, say: () => void): void {
  if (run.told.get(connection) === what) return
  say()
  // Not before: what failed has not been told.
  run.told.set(connection, what)
}

export interface ConnectedMachine {
  machine: Machine
  connection: Connection | undefined
}

/** The run's machines, and the connection of each that has one. */
export function crewOf(run: ActiveRun, { machines, hub }: PhaseTools): ConnectedMachine[] {
  return machines.ofRun(run.id).map(machine => ({ machine, connection: hub.connections.get(machine.id) }))
}

/**
 * A run's generators in their lasting order: by location of the plan, then place. Those for the peak have their numbers
 * before they have a machine. Of what was measured elsewhere, those who told of it.
 */
export function generatorsOf(
  { plan, fleet, claimed }: RunDocument,
  crew: readonly Pick<Machine, 'id' | 'name' | 'location' | 'place'>[],
): RunGenerator[] {
  if (claimed) return claimed.senders.map(({ name, location }) => ({ machineId: '', name, location }))
  return plan.locations.flatMap(({ code }, location) => {
    const here = crew.filter(m => m.location === code)
    const late = fleet
      .filter(o => o.location === code && joinsLate(o))
      .flatMap(order =>
        placesOf(fleet, order).map(place => ({
          place,
          name: `${code}-${place + 1}`,
          machineId: here.find(m => m.place === place)?.id ?? '',
          joinsS: Math.floor(present(order.shift, 'when it joins late').fromMs / 1000),
        })),
      )
    const others = here
      .filter(m => !late.some(l => l.place === m.place))
      .map(({ place, name, id }) => ({ place, name, machineId: id }))
    return [...others, ...late].sort((a, b) => a.place - b.place).map(({ place: _, ...g }) => ({ ...g, location }))
  })
}

/** Opens the run in the merge worker. */
export function startMerging(run: ActiveRun, { machines, hub, ingest, runFile, clock }: PhaseTools): void {
  if (run.merging || clock.now() < run.mergeNotBefore) return
  run.merging = true
  const crew = machines.ofRun(run.id)
  run.generators = generatorsOf(run.document, crew)
  for (const [g, { joinsS, machineId }] of run.generators.entries()) {
    if (
      joinsS !== undefined &&
      run.parts.of(g).is === 'playing' &&
      !machines.changes(machineId).some(c => c.event === 'loadStarted')
    )
      run.parts.set(g, { is: 'coming', toldLate: false })
  }
  ingest.open(run.id, runFile(run.id), run.document, run.generators)
  for (const [g, { sinceSecond }] of run.parts.all('gone', 'absent')) ingest.leave(run.id, g, sinceSecond)
  // What was not acknowledged before it had to be opened again is sent over new links.
  if (run.mergeNotBefore > 0) for (const { machineId } of run.generators) hub.connections.get(machineId)?.close()
}

/** How well clocks are known at worst, s: a frame about a second further ahead is none. */
export const AHEAD_S = 30

/** Run second now; negative before the start. */
export function runSecond(run: ActiveRun, clock: Clock): number {
  return Math.floor((clock.now() - (run.stored.startAt ?? clock.now())) / 1000)
}

/** The run a machine works for now; undefined when none that is under way. */
export function runOfMachine(
  active: ReadonlyMap<number, ActiveRun>,
  machineId: string,
  machines: Pick<MachineStore, 'machine'>,
): ActiveRun | undefined {
  const runId = machines.machine(machineId)?.runId
  return runId === undefined ? undefined : active.get(runId)
}

/** Moment of its run second 0, ms since 1970. @throws Error where it was not fixed yet */
export function startOf({ id, stored }: Pick<ActiveRun, 'id' | 'stored'>): number {
  return present(stored.startAt, `the start of run ${id}`)
}
