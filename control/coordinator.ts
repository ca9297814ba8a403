/** Vornak's coordinator: everything behind the interface, put together. main/ owns one; server/ calls it. */
import type { AgainView, BoardView, MeterView, NetworksView, RunLine, TriedSource } from '../api/views'
import type { Source } from '../core/target/source'
import { fleetParts, type FleetPartsOptions } from './assembly/fleet-parts'
import { foundations, type FoundationOptions } from './assembly/foundations'
import { libraryParts, type LibraryPartsOptions } from './assembly/library-parts'
import { runParts, type RunPartsOptions } from './assembly/run-parts'
import { PRIVATE_ID } from './hosts/private-servers'
import { Ingest } from './ingest/ingest'
import { networksView } from './library/network-view'
import type { Wire } from './link/generator-hub'
import { FleetDesk } from './machines/desk'
import { machineLine } from './machines/machine-lines'
import type { ActiveRuns } from './run/active-run'
import { unasked } from './store/unasked'
import { takeSent, type SentFigures } from './target/sent-figures'
import { trySource } from './target/trying'
import { againView, documentAgain } from './run/again'

export type CoordinatorOptions = FoundationOptions &
  FleetPartsOptions &
  LibraryPartsOptions &
  RunPartsOptions & {
    programs: { mergeWorker: string }
    onFatal: (error: Error) => void
  }

/** Runs on the board. */
const RUNS_ON_BOARD = 20

/**
 * Parts are made in an order in which each knows only those before it, and closed the other way round. What comes back
 * from a later part to an earlier one comes by the listener of that, which is set when all are there.
 */
export class Coordinator {
  private readonly active: ActiveRuns = new Map()
  private readonly ground
  private readonly ingest
  private readonly fleetParts
  private readonly libraryParts
  private readonly runParts
  readonly desk: FleetDesk

  constructor(private readonly options: CoordinatorOptions) {
    this.ground = foundations(options)
    this.ingest = new Ingest(options.programs.mergeWorker, options.onFatal)
    this.fleetParts = fleetParts(this.ground, options, this.active)
    this.libraryParts = libraryParts(this.ground, this.fleetParts, options)
    this.runParts = runParts(this.ground, this.ingest, this.fleetParts, this.libraryParts, options, this.active)
    this.desk = this.makeDesk()
    this.listen()
  }

  get news() {
    return this.ground.news
  }

  get people() {
    return this.ground.people
  }

  get faults() {
    return this.ground.faults
  }

  get trail() {
    return this.ground.trail
  }

  get hosts() {
    return this.fleetParts.hosts
  }

  get ways() {
    return this.fleetParts.ways
  }

  get invitations() {
    return this.fleetParts.invitations
  }

  get library() {
    return this.libraryParts.library
  }

  get imports() {
    return this.libraryParts.imports
  }

  get journeys() {
    return this.libraryParts.journeys
  }

  get capacities() {
    return this.libraryParts.capacities
  }

  get plans() {
    return this.runParts.plans
  }

  get runs() {
    return this.runParts.runs
  }

  /** Results that other programs measured. */
  get elsewhere() {
    return this.runParts.elsewhere
  }

  get archives() {
    return this.runParts.archives
  }

  get streams() {
    return this.runParts.streams
  }

  get reports() {
    return this.runParts.reports
  }

  get walls() {
    return this.runParts.walls
  }

  get links() {
    return this.ground.links
  }

  get shared() {
    return this.runParts.shared
  }

  get mail() {
    return this.runParts.mail
  }

  get hooks() {
    return this.runParts.hooks
  }

  /** Figures of runs on their way out. */
  get figures() {
    return this.runParts.figures
  }

  get dispatches() {
    return this.runParts.dispatches
  }

  get keeping() {
    return this.runParts.keeping
  }

  get calibrations() {
    return this.runParts.calibrations
  }

  /** What each provider rents, where; undefined: it does not answer. */
  offers() {
    return this.libraryParts.offerBook.offers()
  }

  /** What came from a program that sends figures. @throws ControlError */
  takeSent(source: { targetId: string, name: string }, sent: SentFigures): { taken: number, runs: number } {
    return takeSent(this.runParts.inbox.of(source.targetId, source.name), sent, this.ground.clock.now())
  }

  /** Reads a source of a target's own figures once. @throws ControlError */
  trySource(targetId: string, source: Source): Promise<TriedSource> {
    const { inbox } = this.runParts
    const now = () => this.ground.clock.now()
    return trySource(targetId, source, this.library, { commands: this.hosts, inbox, now })
  }

  acceptGenerator(wire: Wire, from?: string) {
    return this.fleetParts.hub.accept(wire, from)
  }

  /** Makes a run of a plan as it is saved now. @throws ControlError when something is in the way */
  async start(planId: string): Promise<RunLine> {
    const { document, version } = await this.plans.toRun(planId)
    return this.runs.view(this.runs.begin(planId, document, `from ${document.plan.name}, version ${version}`)).line
  }

  /** What has changed since a run was made, should it be made again. */
  again(runId: number): Promise<AgainView> {
    return againView(this.runs.stored(runId), { library: this.library, plans: this.plans })
  }

  /** Makes a run of exactly an earlier one's document. @throws ControlError when something is in the way */
  async repeat(runId: number): Promise<RunLine> {
    const stored = this.runs.stored(runId)
    const document = await documentAgain(stored, { library: this.library, plans: this.plans })
    return this.runs.view(
      this.runs.begin(
        stored.planId,
        document,
        `exactly as run ${runId}: ${document.plan.name}, version ${document.planVersion}`,
      ),
    ).line
  }

  networks(): NetworksView {
    return networksView(this.library, this.runs.latest())
  }

  /** Takes an account away, unless machines of it are out. */
  dropAccount(id: string): void {
    this.ways.dropAccount(id, this.ground.tables.machines.out().filter(m => m.provider === id).length)
  }

  /** `site/host` of hosts that have a machine of ours. */
  hostsInUse(): Set<string> {
    return new Set(
      this.ground.tables.machines
        .out()
        .flatMap(m =>
          m.provider === PRIVATE_ID && m.ref !== undefined ? [m.ref.split('/').slice(0, 2).join('/')] : [],
        ),
    )
  }

  /** What generators are shown at their door; undefined while its key cannot be unsealed. */
  doorCertificate() {
    return this.fleetParts.doorKey.certificate()
  }

  generatorProgram(): Uint8Array {
    return this.fleetParts.generatorBundle().content
  }

  board(): BoardView {
    const now = this.options.clock.now()
    const out = this.ground.tables.machines.out().map(m => machineLine(m, [], now, this.fleetParts.money))
    // A calibration is told of while it holds a machine.
    const told = this.runs.linesOf(r => r.document.calibration === undefined || r.endedAt === undefined)
    return {
      runs: told.slice(0, RUNS_ON_BOARD),
      out,
      plans: this.plans.list(),
    }
  }

  meter(): MeterView {
    return this.runParts.meter.view()
  }

  /** Ends this process's part; generators go on and are taken up again by the next one. */
  async shutDown(): Promise<void> {
    this.runParts.close()
    await this.libraryParts.close()
    this.fleetParts.close()
    await this.ingest.stop()
    this.ground.close()
  }

  private makeDesk(): FleetDesk {
    const { clock, tables } = this.ground
    const { fleet, hub, money, rollCaller, ways } = this.fleetParts
    return new FleetDesk({
      clock,
      machines: tables.machines,
      fleet,
      hub,
      money,
      rollCaller,
      providers: ways,
      offers: () => this.libraryParts.offerBook.offers(),
      plans: () => this.library.plans(),
      target: id => this.library.target(id),
      carries: runId => this.active.has(runId),
      paths: () => this.networks().paths,
      runNames: () => this.runs.names(),
      faults: () => this.ground.faults.list(),
    })
  }

  /** Earlier parts tell later ones. */
  private listen(): void {
    const { hub, fleet, invitations } = this.fleetParts
    const { trials } = this.libraryParts
    const { conductor } = this.runParts
    const { intake } = conductor
    const { news, tables } = this.ground
    hub.listener = {
      onEnrolled: (machineId, facts) => {
        tables.machines.setFacts(machineId, facts)
        fleet.change(machineId, 'enrolled', `its generator has enrolled from ${facts.hostname}`)
      },
      onConnected: () => news.fleetChanged(),
      onDisconnected: () => news.fleetChanged(),
      onMessage: (connection, message) => {
        if (!trials.take(connection, message)) conductor.onMessage(connection, message)
      },
      onFrame: (machineId, bytes) => intake.onFrame(machineId, bytes),
      onUnreadable: (machineId, sentence) => intake.onUnreadable(machineId, sentence),
      onUnknownToken: hash => invitations.admit(hash),
      onTokenReused: machineId => fleet.tokenReused(machineId),
    }
    fleet.listener = {
      onChange: () => news.fleetChanged(),
      onStrays: () => news.fleetChanged(),
      onReclaim: machine => conductor.onReclaim(machine),
    }
    // Word of a thread: the same that could not be written comes again, or is told again.
    const word = <Of extends unknown[]>(call: (...of: Of) => void) => unasked('What the merge told', this.faults, call)
    this.ingest.listener = {
      onAck: word((runId, ack) => intake.onAck(runId, ack)),
      onExemplars: word((...of) => intake.onExemplars(...of)),
      onSeconds: word((runId, seconds) => {
        conductor.onSeconds(runId, seconds)
        news.tell({ kind: 'seconds', runId, seconds })
      }),
      onBrokenSoFar: word((runId, stretches, untilS) => {
        if (conductor.onBrokenSoFar(runId, stretches, untilS)) news.runChanged(runId)
      }),
      onAside: word((...of) => intake.onAside(...of)),
      onBroken: word((...of) => conductor.onBroken(...of)),
      onFinished: word((runId, generators) => conductor.onFinished(runId, generators)),
      onGrown: word((runId, document) => conductor.onGrown(runId, document)),
    }
  }
}
