/** Runs: what leads them, merges them, makes them of plans, and finds out what a generator carries. */
import type { LevelPace } from '../../core/capacity/next-step'
import { Calibrations } from '../calibration/calibrations'
import type { Ingest } from '../ingest/ingest'
import { ControlError } from '../errors'
import { Plans } from '../library/plans'
import { Printer } from '../report/printer'
import type { ActiveRuns } from '../run/active-run'
import { Conductor } from '../run/conductor'
import { Keeping } from '../run/keeping'
import { Archives } from '../elsewhere/archive'
import { Elsewhere } from '../elsewhere/elsewhere'
import { Streams, toldOver } from '../elsewhere/streams'
import { Dispatches } from '../dispatch/dispatches'
import { FigurePush } from '../dispatch/figure-push'
import { HookSender } from '../dispatch/hook-sender'
import { MailSender } from '../dispatch/mail-server'
import { ENDED } from '../../core/run/life'
import { Reports } from '../run/reports'
import { Runs } from '../run/runs'
import { Walls } from '../run/walls'
import { SharedThings } from '../sharing/shared-things'
import { Inbox } from '../target/inbox'
import { Watches } from '../target/watches'
import type { FleetParts } from './fleet-parts'
import type { Foundations } from './foundations'
import type { LibraryParts } from './library-parts'
import { Meter } from './meter'
import { present } from '../../core/values/present'

export interface RunPartsOptions {
  programs: { sink: string, clearWorker: string, reportWorker: string, elsewhereWorker: string }
  /** Seconds of the self-test of machines that nobody has calibrated; 0: none. */
  selfTestS: number
  /** How long a calibration holds its levels, where not as usual. */
  levelPace?: LevelPace
  /** Where people find this house, without a slash at its end. */
  address?: () => string
  /** Targets of runs are simulated, and say nothing of themselves. */
  targetsAreSilent?: boolean
}

/** Runs that ended shortly before this process began may still have a target to be read. */
const LOOKED_AT_AGAIN = 10

export type RunParts = ReturnType<typeof runParts>

// eslint-disable-next-line max-lines-per-function -- each part with what it is given
export function runParts(
  ground: Foundations,
  ingest: Ingest,
  fleetParts: FleetParts,
  { library, capacities, sizer, offerBook, trials }: LibraryParts,
  options: RunPartsOptions,
  active: ActiveRuns,
) {
  const { clock, news, tables, runFile, targetFile, disk, keyTrouble } = ground
  const { machines, runs: table } = tables
  const { hub, fleet, rollCaller, money, ways, hosts: privateHosts } = fleetParts
  const inbox = new Inbox()
  const meter = new Meter({ clock, machines, fleet, money, ways, active, library, runs: table, news, disk, keyTrouble })
  const watches = new Watches({
    clock,
    active: () =>
      options.targetsAreSilent ? [] : Array.from(active.values(), ({ stored, document }) => ({ ...stored, document })),
    latest: options.targetsAreSilent
      ? []
      : table.latest(LOOKED_AT_AGAIN).filter(r => r.opened === undefined && r.document.claimed === undefined),
    run: id => table.run(id),
    secretsOf: target => library.secretsOf(target),
    commands: privateHosts,
    inbox,
    targetFile,
    remark: ({ id, state }, { event, source, sentence, at }) =>
      table.remark(id, table.run(id)?.state ?? state, event, sentence, at, source),
    onChange: runId => news.runChanged(runId),
  })
  const conductor = new Conductor({
    store: ground.store,
    outbox: tables.outbox,
    facts: tables.facts,
    clock,
    runs: table,
    machines,
    hub,
    fleet,
    rollCaller,
    ingest,
    library,
    runFile,
    active,
    disk,
    loadNotBefore: run => watches.notBefore(run),
    targetIsJudgeable: (run, endedAt) => watches.isJudgeable(run, endedAt),
    targetFile,
    toldOver: runId => toldOver(tables.runStreams.ofRun(runId), clock.now()),
    selfTestS: options.selfTestS,
    onChange: (runId) => {
      news.runChanged(runId)
      meter.tell()
    },
  })
  const runs = new Runs({
    clock,
    store: table,
    machines,
    conductor,
    ingest,
    money,
    rollCaller,
    stageTimes: fleet.stageTimes,
    hold: () => {
      disk.hold()
      if (keyTrouble) throw new ControlError('sealed', 500, keyTrouble, 'Then start again.')
    },
    runFile,
    targetFile,
    isTargetRead: runId => watches.isReading(runId),
    onChange: runId => news.runChanged(runId),
  })
  const elsewhere = new Elsewhere({
    program: options.programs.elsewhereWorker,
    files: library.files,
    facts: tables.facts,
    store: table,
    clock,
    hold: () => disk.hold(),
    runFile,
    targetFile,
    line: id => runs.view(id).line,
    whole: id => runs.whole(id),
    onRows: (name, rows) => news.tell({ kind: 'resultRows', name, rows }),
    onChange: runId => news.runChanged(runId),
  })
  const archives = new Archives({
    store: table,
    clock,
    files: library.files,
    hold: () => disk.hold(),
    runFile,
    targetFile,
    view: id => runs.view(id),
    stored: id => runs.stored(id),
    onChange: runId => news.runChanged(runId),
  })
  const streams = new Streams({
    store: tables.runStreams,
    runs: table,
    clock,
    conductor,
    ingest,
    hold: () => disk.hold(),
    onChange: runId => news.runChanged(runId),
  })
  const reports = new Reports({ store: tables.reports, runs, printer: new Printer(options.programs.reportWorker) })
  const walls = new Walls({ clock, runs, targetFile })
  const shared = new SharedThings({
    runs,
    reports,
    walls,
    hostNames: () => privateHosts.sites().flatMap(s => s.hosts.flatMap(h => [h.name, h.address])),
  })
  const mail = new MailSender(tables.facts, ground.sealing)
  const figures = new FigurePush({
    clock,
    facts: tables.facts,
    sealing: ground.sealing,
    active: () => Array.from(active.values(), r => r.stored).filter(r => r.document.calibration === undefined),
    families: id => runs.families(id),
    onChange: () => news.tell({ kind: 'dispatches' }),
  })
  const hooks = new HookSender(tables.dispatches, ground.sealing)
  const dispatches = new Dispatches({
    clock,
    store: tables.dispatches,
    mail,
    hooks,
    runs,
    reports,
    changes: id => table.changes(id),
    standing: (id) => {
      const { state, document } = active.get(id)?.stored ?? present(table.run(id), `run ${id}, of which something is sent`)
      return { isOver: ENDED.includes(state), mailTo: document.plan.mailTo ?? [] }
    },
    address: () => options.address?.() ?? '',
    onChange: () => news.tell({ kind: 'dispatches' }),
  })
  // Also what changed while nobody was here.
  for (const { id } of table.latest(LOOKED_AT_AGAIN)) dispatches.runChanged(id)
  news.live.on('live', message => message.kind === 'run' && dispatches.runChanged(message.runId))
  const keeping = new Keeping({
    runs: table,
    library: tables.library,
    files: library.files,
    facts: tables.facts,
    faults: ground.faults,
    disk,
    clock,
    runFile,
    targetFile,
    database: ground.databaseFile,
    program: options.programs.clearWorker,
    onChange: runId => news.runChanged(runId),
  })
  const allowance = () => ({
    rails: money.rails,
    spentToday: money.today(clock.now()),
    foldHours: keeping.rules.foldHours,
    hasMailServer: mail.server !== undefined,
  })
  const plans = new Plans({
    library,
    capacities,
    sizer,
    clock,
    allowance,
    offers: anew => offerBook.offers(anew),
    remembered: () => offerBook.last,
    runLines: () => runs.lines(),
    lastRunOf: id => runs.lastOf(id),
  })
  const calibrations = new Calibrations({
    store: tables.capacities,
    capacities,
    library,
    trials,
    clock,
    sinkProgram: options.programs.sink,
    pace: options.levelPace,
    offers: fresh => offerBook.offers(fresh),
    rails: allowance,
    begin: document => runs.begin('calibration', document, 'a calibration'),
    run: id => table.run(id),
    reasonOf: id => table.changes(id).findLast(c => c.from !== c.to)?.reason ?? 'nobody knows why',
    stopRun: (id, reason) => void conductor.stop(id, reason),
    seen: id => active.get(id)?.calibrating?.evidence(),
    size: async plan => plans.size(plan, await offerBook.offers()),
    onChange: () => news.calibrationsChanged(),
  })
  return {
    meter,
    inbox,
    conductor,
    runs,
    elsewhere,
    streams,
    archives,
    reports,
    walls,
    shared,
    mail,
    hooks,
    figures,
    dispatches,
    keeping,
    plans,
    calibrations,
    close() {
      dispatches.close()
      void figures.close()
      meter.close()
      calibrations.stopAll()
      keeping.close()
      conductor.shutDown()
      void watches.close()
    },
  }
}
