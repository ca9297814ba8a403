/** Vornak's coordinator: everything behind the interface, put together. main/ owns one; server/ and cli/ call it. */
import { EventEmitter } from 'node:events'
import { mkdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { randomBytes } from 'node:crypto'
import { monitorEventLoopDelay } from 'node:perf_hooks'
import type { BoardView, JourneyLine, JourneyView, LiveMessage, MeterView, NetworksView, RunLine, RunView, WindowView } from '../api/views'
import type { HarChoices } from '../core/formats/har-to-journey'
import { OpenApiError, openApiToJourney, readOpenApi, reviewOpenApi, type OpenApiReview } from '../core/formats/openapi'
import { meanRoundThinkMs, STAGES, stepsOf, type HttpJourney, type Journey } from '../core/journey/journey'
import type { Approval, Target } from '../core/journey/target'
import type { SecondFigures } from '../core/merge/second-figures'
import type { RunDocument } from '../core/plan/document'
import { networksUsed } from '../core/plan/shares'
import { runLengthMs } from '../core/plan/slice'
import type { Clock } from './clock'
import { ControlError, inTheWay, notFound, notUnderWay } from './errors'
import { FleetDesk } from './fleet/desk'
import { Fleet } from './fleet/fleet'
import { GeneratorHub, type Wire } from './fleet/generator-hub'
import { Hosts } from './fleet/hosts'
import { Invitations } from './fleet/invitations'
import { Money } from './fleet/money'
import type { Provider } from './fleet/providers/contract'
import { PRIVATE_ID, PrivateServers } from './fleet/providers/private-servers'
import { selfEnrolled } from './fleet/providers/self-enrolled'
import { RollCaller } from './fleet/roll-caller'
import { bundleOf, type Bundle } from './fleet/ssh/resident'
import type { StageBounds } from './fleet/stage-times'
import { Ways } from './fleet/ways'
import type { ExemplarsWanted, FoundExemplars } from './ingest/exemplars'
import { Ingest } from './ingest/ingest'
import { Imports } from './imports/imports'
import { ordersOf } from './library/check-plan'
import { FileRoom } from './library/files'
import { Capacities } from './calibration/capacities'
import { Calibrations } from './calibration/calibrations'
import { Library } from './library/library'
import { Sizer } from './library/sizer'
import { OfferBook } from './library/offers'
import { Plans } from './library/plans'
import { quickStart, targetFor, type QuickStarted } from './library/quick-start'
import { Trials, type Tried } from './library/trial'
import { Conductor } from './run/conductor'
import { gatheringView } from './views/gathering-view'
import { groupsByPlan, plannedPerSecond } from './run/summary'
import { accountStore } from './store/accounts'
import { capacityStore } from './store/capacities'
import { factStore } from './store/facts'
import { hostStore } from './store/hosts'
import { invitationStore } from './store/invitations'
import { libraryStore } from './store/library'
import { machineStore } from './store/machines'
import { openStore } from './store/open'
import { rollCallStore } from './store/roll-calls'
import { sealingWith } from './store/sealing'
import { outboxStore } from './store/outbox'
import { runStore, type StoredRun } from './store/runs'
import { machineLine } from './views/machine-lines'
import { networksView } from './views/network-view'
import { runLine } from './views/run-lines'

export interface CoordinatorOptions {
  /** Folder of the databases. */
  dataFolder: string
  clock: Clock
  /** Ways to machines beside accounts, private servers and machines that come by themselves. */
  providers: readonly Provider[]
  /** An account that is there from the first start. */
  firstAccount?: { id: string, name: string, address: string, key: string }
  stageBounds?: StageBounds
  /** Address generators connect to. */
  controllerAddress: () => string
  /** Files of the programs it starts. */
  programs: { mergeWorker: string, importWorker: string, sizingWorker: string, generator: string, sink: string }
  /** File of the key that secrets are sealed with; outside the data folder. */
  keyFile: string
  /** Spending that is agreed for a day, €. */
  dailyBudget: number
  /** Seconds of the self-test of machines that nobody has calibrated; 0: none. */
  selfTestS: number
  onFatal: (error: Error) => void
}

/** Runs shown in lists. */
const MOST_RUNS = 200
/** Browsers are told that the fleet has changed this often at most, ms; more seldom the more there is to tell. */
const TELL_FLEET_MS = 250
const TELL_FLEET_MS_PER_MACHINE = 2
const TELL_FLEET_MOST_MS = 1000
/** Meter is told this often while something is out, ms. */
const METER_MS = 1000

export class Coordinator {
  /** Emits `live` with every message for browsers. */
  readonly live = new EventEmitter<{ live: [LiveMessage] }>()
  readonly hub: GeneratorHub
  readonly fleet: Fleet
  readonly library: Library
  readonly plans: Plans
  readonly capacities: Capacities
  readonly calibrations: Calibrations
  private readonly sizer: Sizer
  readonly imports: Imports
  readonly trials: Trials
  readonly ways: Ways
  readonly hosts: Hosts
  readonly invitations: Invitations
  readonly desk: FleetDesk
  readonly money: Money
  private readonly store
  private readonly runs
  private readonly machines
  private readonly conductor: Conductor
  private readonly ingest: Ingest
  private readonly rollCaller: RollCaller
  private fleetTold = false
  private bundle: Bundle | undefined
  private readonly loopDelay = monitorEventLoopDelay({ resolution: 10 })
  private loopDelayP99Ms = 0
  private readonly offerBook: OfferBook
  private readonly timers

  constructor(private readonly options: CoordinatorOptions) {
    const { dataFolder, clock } = options
    mkdirSync(join(dataFolder, 'runs'), { recursive: true })
    this.store = openStore(join(dataFolder, 'vornak.db'))
    const libraryTables = libraryStore(this.store)
    const sealing = sealingWith(options.keyFile)
    this.library = new Library(libraryTables, new FileRoom(join(dataFolder, 'files'), libraryTables, () => clock.now()), sealing, clock, () => [new URL(options.controllerAddress()).host])
    this.imports = new Imports(options.programs.importWorker, this.library)
    this.trials = new Trials(this.library, options.programs.generator)
    this.runs = runStore(this.store)
    this.machines = machineStore(this.store)
    const facts = factStore(this.store)
    const accounts = accountStore(this.store)
    const { firstAccount } = options
    if (firstAccount && !accounts.all().some(a => a.account.id === firstAccount.id)) {
      const { key, ...account } = firstAccount
      accounts.save({ ...account, ownEnd: 'natively' }, sealing.seal(key, `account/${account.id}`))
    }
    this.ways = new Ways(options.providers, accounts, sealing, clock)
    this.offerBook = new OfferBook(this.ways, clock, () => this.machines.idle())
    this.money = new Money(this.machines, facts, { mostMachines: 100, mostUsers: 50_000, longestRunMin: 240, budgetPerRun: options.dailyBudget, budgetPerDay: options.dailyBudget, currency: 'EUR' })
    const capacityTables = capacityStore(this.store)
    this.sizer = new Sizer(options.programs.sizingWorker)
    this.capacities = new Capacities({ store: capacityTables, library: this.library, clock, remembered: () => this.offerBook.last, onChange: () => this.tell({ kind: 'calibrations' }) })
    this.plans = new Plans({
      library: this.library, capacities: this.capacities, sizer: this.sizer, clock, allowance: () => ({ rails: this.money.rails, spentToday: this.money.today(clock.now()) }), offers: () => this.offerBook.offers(), remembered: () => this.offerBook.last, runLines: () => this.runLines(),
      lastRunOf: (id) => {
        const last = this.runs.latest(MOST_RUNS).find(r => r.planId === id)
        return last && { ...runLine(last, this.runs.changes(last.id)), answer: last.summary?.answer }
      },
    })
    const epoch = Number(facts.get('epoch') ?? 0) + 1
    facts.set('epoch', String(epoch))
    const secret = facts.get('secret') ?? randomBytes(32).toString('base64url')
    facts.set('secret', secret)
    const installation = facts.get('installation') ?? `vornak-${randomBytes(3).toString('hex')}`
    facts.set('installation', installation)

    const invitations = invitationStore(this.store)
    this.invitations = new Invitations({ invitations, machines: this.machines, clock, controllerAddress: options.controllerAddress })
    const connected = (machineId: string) => this.hub.connections.has(machineId)
    this.hub = new GeneratorHub(this.machines, clock, epoch, {
      onEnrolled: (machineId, hostFacts) => {
        this.machines.setFacts(machineId, hostFacts)
        this.fleet.change(machineId, 'enrolled', `its generator has enrolled from ${hostFacts.hostname}`)
      },
      onConnected: () => this.tellFleet(),
      onDisconnected: () => this.tellFleet(),
      onMessage: (connection, message) => {
        if (!this.trials.take(connection, message)) this.conductor.onMessage(connection, message)
      },
      onFrame: (machineId, bytes) => this.conductor.onFrame(machineId, bytes),
      onUnknownToken: hash => this.invitations.admit(hash),
      onTokenReused: (machineId) => {
        const machine = this.machines.machine(machineId)
        if (machine) this.machines.remark(machineId, machine.state, 'tokenReused', 'its token was presented a second time and refused', clock.now())
      },
    })
    this.hosts = new Hosts(hostStore(this.store), sealing, clock, () => this.tellFleet())
    const privateServers = new PrivateServers({
      clock, installation, keys: this.hosts.keyRoom, sites: () => this.hosts.sites(), lastTry: ref => this.hosts.lastTry(ref), accept: (wire, from) => this.hub.accept(wire, from),
      taken: () => new Set(this.machines.out().flatMap(m => m.provider === PRIVATE_ID && m.ref !== undefined ? [m.ref] : [])),
      bundle: () => this.generatorBundle(),
      onLog: (name, log) => {
        const id = name.slice(installation.length + 1)
        if (this.machines.machine(id)) this.machines.saveLog(id, log, clock.now())
      },
    })
    this.ways.set(PRIVATE_ID, privateServers)
    const self = selfEnrolled({ machines: this.machines, invitations, connected, installation, clock })
    this.ways.set(self.id, self)
    this.fleet = new Fleet({
      machines: this.machines, providers: this.ways, clock, controllerAddress: options.controllerAddress, secret, installation, connected,
      dismiss: (machineId, reason) => this.hub.connections.get(machineId)?.say({ kind: 'release', reason }),
      mayTake: (machine, now) => this.money.mayTake(machine, now),
      needed: machine => machine.runId !== undefined && this.conductor.active.has(machine.runId),
      ...(options.stageBounds ? { bounds: options.stageBounds } : {}),
      listener: { onChange: () => this.tellFleet(), onStrays: () => this.tellFleet(), onReclaim: machine => this.conductor.onReclaim(machine) },
    })
    this.rollCaller = new RollCaller(this.machines, this.hub, rollCallStore(this.store), clock, () => this.tellFleet())
    this.ingest = new Ingest(options.programs.mergeWorker, options.onFatal)
    this.conductor = new Conductor({
      store: this.store, outbox: outboxStore(this.store), clock, runs: this.runs, machines: this.machines, hub: this.hub, fleet: this.fleet, rollCaller: this.rollCaller, ingest: this.ingest, library: this.library,
      runFile: runId => this.runFile(runId), selfTestS: options.selfTestS,
      onChange: (runId) => {
        this.tell({ kind: 'run', runId })
        this.tellMeter()
      },
    })
    this.calibrations = new Calibrations({
      store: capacityTables, capacities: this.capacities, library: this.library, trials: this.trials, clock, sinkProgram: options.programs.sink, offers: fresh => this.offerBook.offers(fresh),
      rails: () => ({ rails: this.money.rails, spentToday: this.money.today(clock.now()) }), begin: document => this.begin('calibration', document, 'a calibration'), run: id => this.runs.run(id),
      reasonOf: id => this.runs.changes(id).findLast(c => c.from !== c.to)?.reason ?? 'nobody knows why', stopRun: (id, reason) => void this.conductor.stop(id, reason), seen: id => this.conductor.active.get(id)?.calibrating?.evidence(),
      size: async plan => this.plans.size(plan, await this.offerBook.offers()), onChange: () => this.tell({ kind: 'calibrations' }),
    })
    this.ingest.listener = {
      onAck: (runId, ack) => this.conductor.onAck(runId, ack),
      onExemplars: (...of) => this.conductor.onExemplars(...of),
      onSeconds: (runId, seconds) => {
        this.conductor.onSeconds(runId, seconds)
        this.tell({ kind: 'seconds', runId, seconds })
      },
      onFinished: (runId, generators) => this.conductor.onFinished(runId, generators),
    }
    this.desk = new FleetDesk({
      clock, machines: this.machines, fleet: this.fleet, hub: this.hub, money: this.money, rollCaller: this.rollCaller, providers: this.ways, offers: () => this.offerBook.offers(),
      plans: () => this.library.plans(), target: id => this.library.target(id), carries: runId => this.conductor.active.has(runId), paths: () => this.networks().paths,
      runNames: () => new Map(this.runs.latest(MOST_RUNS).map(r => [r.id, { plan: r.document.plan.name, ...(r.document.forecast === undefined ? {} : { forecast: r.document.forecast }) }])),
    })
    this.loopDelay.enable()
    this.timers = [
      clock.every(METER_MS, () => this.tellMeter()),
      setIntervalCancel(10_000, () => {
        this.loopDelayP99Ms = Math.max(0, this.loopDelay.percentile(99) / 1e6 - 10)
        this.loopDelay.reset()
      }),
    ]
  }

  // Generators.

  acceptGenerator(wire: Wire, from?: string) {
    return this.hub.accept(wire, from)
  }

  // Plans and runs made of them.

  /** Makes a run of a plan as it is saved now. @throws ControlError when something is in the way */
  async start(planId: string): Promise<RunLine> {
    const { plan, version } = this.plans.stored(planId)
    const target = this.library.target(plan.targetId)
    // A key that does not fit is found now, not when everybody waits.
    if (target) this.library.secretsOf(target)
    const offers = await this.offerBook.offers(true)
    const { problems, forecast, sizes } = await this.plans.checkAgainst(plan, offers)
    const blocking = problems.filter(p => p.weight === 'inTheWay')
    if (blocking.length > 0 || !target) throw inTheWay(blocking.map(p => p.sentence))
    const used = this.library.store.journeys().filter(s => plan.groups.some(g => g.journeyId === s.id))
    const feeds = this.library.feeds().filter(f => used.some(s => (s.journey.feeds ?? []).some(u => u.feed === f.id)))
    const document: RunDocument = {
      plan, planVersion: version, forecast, target, journeys: used.map(s => s.journey), fleet: ordersOf(plan, offers, sizes),
      sizedBy: sizes.filter(s => s.users > 0).map(s => ({ location: s.code, basis: s.basis, capacities: this.capacities.asSizedBy(s.basedOn) })),
      networks: this.library.networks().filter(n => networksUsed(plan).includes(n.id)),
      journeyVersions: Object.fromEntries(used.map(s => [s.id, s.version])), feeds: Object.fromEntries(feeds.map(f => [f.id, { columns: f.columns, rows: f.rows }])),
    }
    return this.run(this.begin(planId, document, `from ${plan.name}, version ${version}`)).line
  }

  /** Keeps a run and begins to lead it. */
  private begin(planId: string, document: RunDocument, from: string): number {
    const runId = this.runs.create(planId, document, this.options.clock.now())
    this.runs.remark(runId, 'queued', 'created', from, this.options.clock.now())
    this.conductor.takeUp(runId)
    this.tell({ kind: 'run', runId })
    return runId
  }

  setApproval(targetId: string, approval: Approval): Target {
    return this.library.setApproval(targetId, approval)
  }

  networks(): NetworksView {
    return networksView(this.library, this.runs.latest(MOST_RUNS))
  }

  // Journeys.

  journeyLines(): JourneyLine[] {
    const plans = this.library.plans()
    return this.library.store.journeys().map(({ id, version, savedAt, journey }) => ({
      id, version, savedAt, name: journey.name, kind: journey.kind, tags: journey.tags ?? [], passThinkMs: meanRoundThinkMs(journey),
      steps: journey.kind === 'http' ? STAGES.reduce((sum, s) => sum + stepsOf(journey, s).length, 0) : journey.steps.length,
      plans: plans.filter(p => p.plan.groups.some(g => g.journeyId === id)).map(p => p.plan.name), problems: this.library.problemsOf(journey).filter(p => p.weight === 'inTheWay').length,
    }))
  }

  journeyView(id: string, version?: number): JourneyView {
    const { journey, version: shown, savedAt } = this.library.journey(id, version)
    return {
      journey, version: shown, savedAt, history: this.library.store.journeyHistory(id), problems: this.library.problemsOf(journey), feeds: this.library.feeds(), targets: this.library.targets(),
      idle: [...this.hub.connections.values()].filter(c => c.work.state === 'idle' || c.work.state === 'finished').flatMap((c) => {
        const machine = this.machines.machine(c.machineId)
        return machine ? [{ machineId: c.machineId, name: machine.name, location: machine.location }] : []
      }),
    }
  }

  /** The journey of a capture, saved, with a target at its main host. */
  async importHar(file: string, choices: HarChoices): Promise<{ journeyId: string, targetId: string, remarks: string[] }> {
    const { journey, baseUrl, remarks } = await this.imports.convertHar(file, choices)
    return this.keepImported(journey, baseUrl, remarks)
  }

  /** @param ids operations chosen; left out: what there is to choose from */
  importOpenApi(text: string, ids?: string[]): OpenApiReview | { journeyId: string, targetId: string, remarks: string[] } {
    try {
      const api = readOpenApi(text)
      if (!ids) return reviewOpenApi(api)
      const { journey, baseUrl, remarks } = openApiToJourney(api, ids)
      return this.keepImported(journey, baseUrl || 'http://localhost', remarks)
    }
    catch (error) {
      if (error instanceof OpenApiError) throw new ControlError('openapi', 400, error.message, error.remedy)
      throw error
    }
  }

  async quickStart(text: string): Promise<QuickStarted> {
    return quickStart(this.library, text, await this.offerBook.offers())
  }

  private keepImported(journey: HttpJourney, baseUrl: string, remarks: string[]) {
    if (journey.round.length === 0) throw new ControlError('nothing-kept', 400, 'Nothing would be left in the journey.', 'Keep at least one request.')
    const target = targetFor(this.library, baseUrl, new URL(baseUrl).host)
    const notes = remarks.length > 0 ? { notes: `Not converted:\n${remarks.map(r => `- ${r}`).join('\n')}`.slice(0, 10_000) } : {}
    const saved = this.library.saveJourney({ ...journey, ...notes, id: this.library.freeId(journey.name, id => this.library.store.journey(id) !== undefined) }, 0)
    return { journeyId: saved.id, targetId: target.id, remarks }
  }

  // Runs.

  /** Runs of plans; calibrations have a screen of their own. */
  runLines(): RunLine[] {
    return this.linesOf(r => r.document.calibration === undefined)
  }

  private linesOf(which: (run: StoredRun) => boolean): RunLine[] {
    return this.runs.latest(MOST_RUNS).filter(which).map(r => runLine(r, this.runs.changes(r.id)))
  }

  run(id: number): RunView {
    const stored = this.storedRun(id)
    const changes = this.runs.changes(id)
    const now = this.options.clock.now()
    const machineChanges = this.machines.changesOfRun(id)
    const machines = this.machines.everOfRun(id).map(({ machine, stay }) => machineLine(machine, machineChanges.get(machine.id) ?? [], now, this.money, stay))
    const crew = this.machines.ofRun(id)
    const codes = stored.document.plan.locations.map(l => l.code)
    const generators = [...crew].sort((a, b) => codes.indexOf(a.location) - codes.indexOf(b.location) || a.place - b.place)
    return {
      line: runLine(stored, changes), document: stored.document, changes, machines, now,
      gathering: gatheringView(stored, crew, this.runs, this.fleet.stageTimes, now), cost: machines.reduce((sum, m) => sum + m.cost, 0),
      rollCall: (({ called, findings }) => ({ machines: called, findings }))(this.rollCaller.judge(crew, id)),
      generators: generators.map(m => ({ machineId: m.id, name: m.name, location: m.location })),
      lengthS: Math.ceil(runLengthMs(stored.document) / 1000), planned: [...plannedPerSecond(stored.document)],
      byPlan: { groups: groupsByPlan(stored.document).map(s => s.g), planned: [...plannedPerSecond(stored.document, groupsByPlan(stored.document).map(s => s.group))] }, summary: stored.summary,
    }
  }

  seconds(id: number): Promise<SecondFigures[]> {
    const stored = this.storedRun(id)
    return stored.startAt === undefined ? Promise.resolve([]) : this.ingest.seconds(this.runFile(id))
  }

  window(id: number, fromS: number, toS: number): Promise<WindowView> {
    const stored = this.storedRun(id)
    if (!Number.isInteger(fromS) || !Number.isInteger(toS) || fromS < 0 || toS <= fromS) throw new ControlError('window', 400, `${fromS} to ${toS} s is not a window of whole seconds.`, 'Give from and to in whole run seconds, from before to.')
    return this.ingest.window(this.runFile(id), stored.document, fromS, toS, stored.summary?.pathMs ?? {})
  }

  exemplars(id: number, wanted: ExemplarsWanted): Promise<FoundExemplars> {
    this.storedRun(id)
    return this.ingest.findExemplars(this.runFile(id), wanted)
  }

  /** What commands left on their generators. */
  leftovers(id: number) {
    this.storedRun(id)
    return this.ingest.leftovers(this.runFile(id))
  }

  async leftover(id: number, generator: number, group: string, name: string): Promise<Uint8Array> {
    this.storedRun(id)
    const content = await this.ingest.readLeftover(this.runFile(id), generator, group, name)
    if (!content) throw notFound(`file ${name} of this run`)
    return content
  }

  /** One user goes once through a journey. @param machineId an enrolled generator's; left out: here */
  try(journey: Journey, targetId: string, machineId?: string): Promise<Tried> {
    const target = this.library.target(targetId)
    if (!target) throw notFound(`target ${targetId}`)
    if (machineId === undefined) return this.trials.here(journey, target)
    const connection = this.hub.connections.get(machineId)
    if (!connection) throw notFound(`generator ${machineId} connected now`)
    return this.trials.on(connection, journey, target)
  }

  histogramLog(id: number): Promise<string> {
    const stored = this.storedRun(id)
    return this.ingest.histogramLog(this.runFile(id), stored.document, stored.startAt ?? stored.createdAt)
  }

  stop(id: number, reason = 'stopped by hand'): void {
    this.storedRun(id)
    if (!this.conductor.stop(id, reason)) throw notUnderWay(id)
  }

  abort(id: number, reason = 'aborted by hand'): void {
    this.storedRun(id)
    if (!this.conductor.abort(id, reason)) throw notUnderWay(id)
  }

  /** Pins a note to this moment of a run. */
  mark(id: number, text: string): void {
    const run = this.storedRun(id)
    this.runs.remark(id, run.state, 'mark', text, this.options.clock.now())
    this.tell({ kind: 'run', runId: id })
  }

  // Fleet and money.

  /** Takes an account away, unless machines of it are out. */
  dropAccount(id: string): void {
    this.ways.dropAccount(id, this.machines.out().filter(m => m.provider === id).length)
  }

  /** `site/host` of hosts that have a machine of ours. */
  hostsInUse(): Set<string> {
    return new Set(this.machines.out().flatMap(m => m.provider === PRIVATE_ID && m.ref !== undefined ? [m.ref.split('/').slice(0, 2).join('/')] : []))
  }

  generatorProgram(): Uint8Array {
    return this.generatorBundle().content
  }

  /** Goes with the machines a gathering run has. */
  goWith(id: number): void {
    this.storedRun(id)
    const why = this.conductor.goWith(id)
    if (why) throw new ControlError('cannot-go', 409, why, 'Wait for machines, or stop the run.')
  }

  board(): BoardView {
    const now = this.options.clock.now()
    const out = this.machines.out().map(m => machineLine(m, [], now, this.money))
    // A calibration is told of while it holds a machine.
    return { runs: this.linesOf(r => r.document.calibration === undefined || r.endedAt === undefined).slice(0, 20), out, plans: this.plans.list() }
  }

  meter(): MeterView {
    const now = this.options.clock.now()
    const all = this.machines.out()
    const out = all.filter(m => m.allocatedAt !== undefined)
    const next = [...out].sort((a, b) => a.leaseEndsAt - b.leaseEndsAt)[0]
    const active = [...this.conductor.active.values()][0]
    const wanted = [...this.conductor.active.values()].reduce((sum, r) => sum + r.document.fleet.reduce((s, o) => s + o.machines, 0), 0)
    return {
      now, machinesOut: out.length, machinesWanted: Math.max(wanted, out.length), perHour: out.reduce((sum, m) => sum + m.price.perHour + m.price.extrasPerHour, 0),
      today: this.money.today(now), budget: this.money.rails.budgetPerDay,
      nextLease: next && { location: next.location, name: next.name, endsAt: next.leaseEndsAt }, loading: all.filter(m => m.state === 'loading' || m.state === 'draining').length, unconfirmed: all.filter(m => m.state === 'releaseUnconfirmed').length,
      run: active && { id: active.id, state: active.stored.state, startAt: active.stored.startAt },
      silent: [...this.fleet.silent].map(([id, { sentence }]) => ({ provider: this.ways.get(id)?.name ?? id, sentence })),
      strays: this.fleet.strays.length,
      counts: { waiting: this.conductor.active.size, journeys: this.library.journeys().length, plans: this.library.plans().filter(p => !p.archived).length, runs: this.runs.count() },
      loopDelayP99Ms: this.loopDelayP99Ms,
    }
  }

  /** Ends this process's part; generators go on and are taken up again by the next one. */
  async shutDown(): Promise<void> {
    for (const timer of this.timers) timer.cancel()
    this.calibrations.stopAll()
    this.conductor.shutDown()
    this.fleet.stop()
    this.ways.stop()
    this.hub.stop()
    this.loopDelay.disable()
    await this.imports.stop()
    await this.sizer.stop()
    await this.ingest.stop()
    this.store.close()
  }

  private generatorBundle(): Bundle {
    return this.bundle ??= bundleOf(readFileSync(this.options.programs.generator))
  }

  private storedRun(id: number): StoredRun {
    const stored = Number.isInteger(id) ? this.runs.run(id) : undefined
    if (!stored) throw notFound(`run ${id}`)
    return stored
  }

  private runFile(runId: number): string {
    return join(this.options.dataFolder, 'runs', `run-${runId}.db`)
  }

  private tell(message: LiveMessage): void {
    this.live.emit('live', message)
  }

  /** The fleet has changed: told once for all that changes in the same moment. */
  private tellFleet(): void {
    if (this.fleetTold) return
    this.fleetTold = true
    this.options.clock.after(Math.min(TELL_FLEET_MOST_MS, TELL_FLEET_MS + TELL_FLEET_MS_PER_MACHINE * this.hub.connections.size), () => {
      this.fleetTold = false
      this.tell({ kind: 'fleet' })
    })
  }

  private tellMeter(): void {
    this.tell({ kind: 'meter', meter: this.meter() })
  }
}

function setIntervalCancel(ms: number, call: () => void) {
  const timer = setInterval(call, ms)
  timer.unref()
  return { cancel: () => clearInterval(timer) }
}
