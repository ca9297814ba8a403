/**
 * Arming: every generator gets its slice and warms its code up; then all get the same moment, each on its own clock.
 */
import { orderOfPlace } from '../../core/fleet/order'
import { runLengthMs } from '../../core/plan/length'
import { LEASE_BEYOND_RUN_MS } from '../machines/fleet'
import type { Connection } from '../link/generator-hub'
import { capacitiesOf, suppliesForLoad } from '../library/supplies'
import type { Machine } from '../store/machines'
import {
  crewOf,
  startMerging,
  tellOnce,
  type ActiveRun,
  type ConnectedMachine,
  type PhaseTools,
  type Verdict,
} from './active-run'
import { startOf } from './active-run'

/** Time between fixing the start moment and the start, ms: longer than any message is under way. */
const LEAD_MS = 1500
/** Generators that are given their part in one look. */
const PREPARED_AT_ONCE = 40
const PREPARE_TIMEOUT_MS = 60_000
/** A generator that has not said it goes by this long after the start has not gone, ms. */
const GOING_LATE_MS = 3000
/** Users may wait this long for a last answer after they should have left, ms. */
const LEAVE_MS = 10_000

/** What is told from elsewhere begins with the first word of it; and never, where the first is the last. */
function waiting(run: ActiveRun, { toldOver }: PhaseTools): Verdict | undefined {
  const over = toldOver(run.id)
  return over === undefined ? undefined : { event: 'armingFailed', reason: `nothing was told of it: ${over}` }
}

// eslint-disable-next-line max-lines-per-function -- one calculation or case after the other, with what they share
export function arming(run: ActiveRun, tools: PhaseTools): Verdict | undefined {
  if (run.document.claimed) return waiting(run, tools)
  const { clock, runs } = tools
  const crew = crewOf(run, tools)
  const runId = String(run.id)
  const lost = crew.find(c => c.machine.state !== 'ready' && c.machine.state !== 'loading')
  if (lost) return failed(crew, runId, `${lost.machine.name} is ${lost.machine.state}`)
  startMerging(run, tools)
  const { plan } = run.document
  const capacities = capacitiesOf(run.document)
  const refused = crew.find(c => run.unprepared.has(c.machine.id))
  if (refused)
    return failed(crew, runId, `${refused.machine.name} cannot do its part: ${run.unprepared.get(refused.machine.id)}`)
  let told = 0
  for (const { machine, connection } of crew) {
    if (
      !connection ||
      (connection.work.state !== 'idle' && connection.work.runId === runId) ||
      run.told.get(connection) === 'prepare'
    )
      continue
    // The rest is told at the next look: whole plans for hundreds at once would hold up everything else.
    if (++told > PREPARED_AT_ONCE) break
    prepare(run, tools, machine, connection, capacities)
  }
  if (run.stored.startAt === undefined) {
    const prepared = crew.every(c => c.connection?.work.runId === runId && c.connection.work.state === 'prepared')
    if (!prepared) {
      if (clock.now() - run.since < PREPARE_TIMEOUT_MS) return undefined
      const missing = crew.filter(c => c.connection?.work.state !== 'prepared').map(c => c.machine.name)
      return failed(crew, runId, `${missing.join(', ')} not prepared after ${PREPARE_TIMEOUT_MS / 1000} s`)
    }
    const startAt = Math.ceil(Math.max(clock.now() + LEAD_MS, tools.loadNotBefore(run) ?? 0))
    const short = tooShort(run, crew, startAt, tools)
    if (short) return clock.now() - run.since < PREPARE_TIMEOUT_MS ? undefined : failed(crew, runId, short)
    runs.setStart(run.id, startAt)
    run.stored.startAt = startAt
  }
  const startAt = startOf(run)
  for (const { connection } of crew) {
    if (connection?.work.state === 'prepared')
      tellOnce(run, connection, 'go', () =>
        connection.say({ kind: 'go', runId, startAt: startAt + connection.clock.offsetAt(startAt) }),
      )
  }
  const going = crew.every(
    c =>
      c.connection &&
      c.connection.work.runId === runId &&
      (c.connection.work.state === 'loading' || c.connection.work.state === 'finished'),
  )
  if (clock.now() < startAt) return undefined
  if (going) {
    for (const { machine } of crew) tools.fleet.change(machine.id, 'loadStarted', `run ${run.id} has started`)
    const warm = plan.groups.some(g => g.profile.segments[0]?.warmUp)
    return { event: warm ? 'startedWarm' : 'started', reason: `${crew.length} generators started together` }
  }
  if (clock.now() < startAt + GOING_LATE_MS) return undefined
  return failed(
    crew,
    runId,
    `${crew
      .filter(c => c.connection?.work.state !== 'loading')
      .map(c => c.machine.name)
      .join(', ')} did not start`,
  )
}

/** Tells a generator its part of the run. */
export function prepare(
  run: ActiveRun,
  { library }: PhaseTools,
  machine: Machine,
  connection: Connection,
  capacities: number[][],
): void {
  const number = run.generators.findIndex(g => g.machineId === machine.id)
  const post = {
    location: run.document.plan.locations.findIndex(l => l.code === machine.location),
    generator: machine.place,
  }
  tellOnce(run, connection, 'prepare', () =>
    connection.say({
      kind: 'prepare',
      runId: String(run.id),
      document: run.document,
      generators: capacities,
      post,
      leaveMs: LEAVE_MS,
      supplies: suppliesForLoad(library, run.document, number),
    }),
  )
}

/**
 * A run starts only when every lease outlasts it; one that does not is prolonged, if its provider and the budget let
 * it. @returns what is in the way
 */
function tooShort(
  run: ActiveRun,
  crew: readonly ConnectedMachine[],
  startAt: number,
  { fleet }: PhaseTools,
): string | undefined {
  const neededUntil = ({ location, place }: Machine) =>
    startAt +
    (orderOfPlace(run.document.fleet, location, place)?.shift?.toMs ?? runLengthMs(run.document)) +
    LEASE_BEYOND_RUN_MS
  const short = crew.filter(c => c.machine.leaseEndsAt < neededUntil(c.machine))
  if (short.length === 0) return undefined
  if (!run.prolonged) {
    run.prolonged = true
    for (const { machine } of short)
      void fleet.extend(machine.id, neededUntil(machine), `run ${run.id} needs it`).catch(() => {
        /* the lease stays short, and is said to be */
      })
  }
  return `the lease of ${short.map(c => c.machine.name).join(', ')} ends before the run does, and cannot be moved`
}

function failed(crew: readonly ConnectedMachine[], runId: string, reason: string): Verdict {
  for (const { connection } of crew) connection?.say({ kind: 'abort', runId, reason })
  return { event: 'armingFailed', reason }
}
