/** Vornak's coordinator: everything behind the interface, put together. main/ owns one; server/ and cli/ call it. */
import { EventEmitter } from 'node:events'
import { mkdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { randomBytes } from 'node:crypto'
import { monitorEventLoopDelay } from 'node:perf_hooks'
import type { AgainView, BoardView, LiveMessage, MeterView, NetworksView, RunLine } from '../api/views'
import type { Clock } from './clock'
import { FleetDesk } from './machines/desk'
import { Fleet } from './machines/fleet'
import { GeneratorHub, type Wire } from './link/generator-hub'
import { Hosts } from './hosts/hosts'
import { Invitations } from './machines/invitations'
import { Money } from './machines/money'
import type { Provider } from './machines/providers/contract'
import { PRIVATE_ID, PrivateServers } from './hosts/private-servers'
import { selfEnrolled } from './machines/providers/self-enrolled'
import { RollCaller } from './link/roll-caller'
import { bundleOf, type Bundle } from './hosts/ssh/resident'
import type { StageBounds } from './machines/stage-times'
import { Ways } from './machines/ways'
import { Ingest } from './ingest/ingest'
import { Imports } from './imports/imports'
import { FileRoom } from './library/files'
import { Capacities } from './library/capacities'
import { Calibrations } from './calibration/calibrations'
import { Journeys } from './authoring/journeys'
import { Library } from './library/library'
import { Sizer } from './library/sizer'
import { OfferBook } from './library/offers'
import { Plans } from './library/plans'
import { Trials } from './library/trial'
import { againView, documentAgain } from './run/again'
import { Conductor } from './run/conductor'
import { Runs } from './run/runs'
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
import { runStore } from './store/runs'
import { machineLine } from './machines/machine-lines'
import { networksView } from './library/network-view'

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
  readonly journeys: Journeys
  readonly plans: Plans
  readonly runs: Runs
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
    this.library = new Library(
      libraryTables,
      new FileRoom(join(dataFolder, 'files'), libraryTables, () => clock.now()),
      sealing,
      clock,
      () => [new URL(options.controllerAddress()).host],
    )
    this.imports = new Imports(options.programs.importWorker, this.library)
    this.trials = new Trials(this.library, options.programs.generator)
    const runs = runStore(this.store, runId => this.tell({ kind: 'run', runId }))
    this.machines = machineStore(this.store)
    const facts = factStore(this.store)
    const accounts = accountStore(this.store)
    const { firstAccount } = options
    if (firstAccount && !accounts.all().some(a => a.account.id === firstAccount.id)) {
      const { key, ...account } = firstAccount
      accounts.save({ ...account, ownEnd: 'natively' }, sealing.seal(key, `account/${account.id}`))
    }
    this.ways = new Ways(options.providers, accounts, sealing, clock)
    this.offerBook = new OfferBook(
      this.ways,
      clock,
      () => this.machines.idle(),
      provider => this.fleet.stageTimes.usualMs(provider),
    )
    this.money = new Money(this.machines, facts, {
      mostMachines: 100,
      mostUsers: 50_000,
      longestRunMin: 240,
      budgetPerRun: options.dailyBudget,
      budgetPerDay: options.dailyBudget,
      currency: 'EUR',
    })
    const capacityTables = capacityStore(this.store)
    this.sizer = new Sizer(options.programs.sizingWorker)
    this.capacities = new Capacities({
      store: capacityTables,
      library: this.library,
      clock,
      remembered: () => this.offerBook.last,
      onChange: () => this.tell({ kind: 'calibrations' }),
    })
    this.plans = new Plans({
      library: this.library,
      capacities: this.capacities,
      sizer: this.sizer,
      clock,
      allowance: () => ({ rails: this.money.rails, spentToday: this.money.today(clock.now()) }),
      offers: anew => this.offerBook.offers(anew),
      remembered: () => this.offerBook.last,
      runLines: () => this.runs.lines(),
      lastRunOf: id => this.runs.lastOf(id),
    })
    const epoch = Number(facts.get('epoch') ?? 0) + 1
    facts.set('epoch', String(epoch))
    const secret = facts.get('secret') ?? randomBytes(32).toString('base64url')
    facts.set('secret', secret)
    const installation = facts.get('installation') ?? `vornak-${randomBytes(3).toString('hex')}`
    facts.set('installation', installation)

    const invitations = invitationStore(this.store)
    this.invitations = new Invitations({
      invitations,
      machines: this.machines,
      clock,
      controllerAddress: options.controllerAddress,
    })
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
      onFrame: (machineId, bytes) => this.conductor.intake.onFrame(machineId, bytes),
      onUnreadable: (machineId, sentence) => this.conductor.intake.onUnreadable(machineId, sentence),
      onUnknownToken: hash => this.invitations.admit(hash),
      onTokenReused: (machineId) => {
        const machine = this.machines.machine(machineId)
        if (machine)
          this.machines.remark(
            machineId,
            machine.state,
            'tokenReused',
            'its token was presented a second time and refused',
            clock.now(),
          )
      },
    })
    this.hosts = new Hosts(hostStore(this.store), sealing, clock, () => this.tellFleet())
    const privateServers = new PrivateServers({
      clock,
      installation,
      keys: this.hosts.keyRoom,
      sites: () => this.hosts.sites(),
      lastTry: ref => this.hosts.lastTry(ref),
      accept: (wire, from) => this.hub.accept(wire, from),
      taken: () =>
        new Set(this.machines.out().flatMap(m => (m.provider === PRIVATE_ID && m.ref !== undefined ? [m.ref] : []))),
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
      machines: this.machines,
      providers: this.ways,
      clock,
      controllerAddress: options.controllerAddress,
      secret,
      installation,
      connected,
      lastWord: id => ({ heardAt: this.hub.heardAt(id), graceOverAt: this.hub.graceOverAt(id) }),
      dismiss: (machineId, reason) => this.hub.connections.get(machineId)?.say({ kind: 'release', reason }),
      mayTake: (machine, now) => this.money.mayTake(machine, now),
      needed: machine => machine.runId !== undefined && this.conductor.active.has(machine.runId),
      ...(options.stageBounds ? { bounds: options.stageBounds } : {}),
      listener: {
        onChange: () => this.tellFleet(),
        onStrays: () => this.tellFleet(),
        onReclaim: machine => this.conductor.onReclaim(machine),
      },
    })
    this.rollCaller = new RollCaller(this.machines, this.hub, rollCallStore(this.store), clock, () => this.tellFleet())
    this.ingest = new Ingest(options.programs.mergeWorker, options.onFatal)
    this.conductor = new Conductor({
      store: this.store,
      outbox: outboxStore(this.store),
      facts,
      clock,
      runs,
      machines: this.machines,
      hub: this.hub,
      fleet: this.fleet,
      rollCaller: this.rollCaller,
      ingest: this.ingest,
      library: this.library,
      runFile: runId => this.runFile(runId),
      selfTestS: options.selfTestS,
      onChange: (runId) => {
        this.tell({ kind: 'run', runId })
        this.tellMeter()
      },
    })
    this.runs = new Runs({
      clock,
      store: runs,
      machines: this.machines,
      conductor: this.conductor,
      ingest: this.ingest,
      money: this.money,
      rollCaller: this.rollCaller,
      stageTimes: this.fleet.stageTimes,
      runFile: runId => this.runFile(runId),
      onChange: runId => this.tell({ kind: 'run', runId }),
    })
    this.journeys = new Journeys({
      library: this.library,
      imports: this.imports,
      trials: this.trials,
      hub: this.hub,
      machines: this.machines,
      offers: () => this.offerBook.offers(),
    })
    this.calibrations = new Calibrations({
      store: capacityTables,
      capacities: this.capacities,
      library: this.library,
      trials: this.trials,
      clock,
      sinkProgram: options.programs.sink,
      offers: fresh => this.offerBook.offers(fresh),
      rails: () => ({ rails: this.money.rails, spentToday: this.money.today(clock.now()) }),
      begin: document => this.runs.begin('calibration', document, 'a calibration'),
      run: id => runs.run(id),
      reasonOf: id => runs.changes(id).findLast(c => c.from !== c.to)?.reason ?? 'nobody knows why',
      stopRun: (id, reason) => void this.conductor.stop(id, reason),
      seen: id => this.conductor.active.get(id)?.calibrating?.evidence(),
      size: async plan => this.plans.size(plan, await this.offerBook.offers()),
      onChange: () => this.tell({ kind: 'calibrations' }),
    })
    this.ingest.listener = {
      onAck: (runId, ack) => this.conductor.intake.onAck(runId, ack),
      onExemplars: (...of) => this.conductor.intake.onExemplars(...of),
      onSeconds: (runId, seconds) => {
        this.conductor.onSeconds(runId, seconds)
        this.tell({ kind: 'seconds', runId, seconds })
      },
      onAside: (...of) => this.conductor.intake.onAside(...of),
      onBroken: (...of) => this.conductor.onBroken(...of),
      onFinished: (runId, generators) => this.conductor.onFinished(runId, generators),
    }
    this.desk = new FleetDesk({
      clock,
      machines: this.machines,
      fleet: this.fleet,
      hub: this.hub,
      money: this.money,
      rollCaller: this.rollCaller,
      providers: this.ways,
      offers: () => this.offerBook.offers(),
      plans: () => this.library.plans(),
      target: id => this.library.target(id),
      carries: runId => this.conductor.active.has(runId),
      paths: () => this.networks().paths,
      runNames: () =>
        new Map(
          this.runs
            .latest()
            .map(r => [
              r.id,
              {
                plan: r.document.plan.name,
                ...(r.document.forecast === undefined ? {} : { forecast: r.document.forecast }),
              },
            ]),
        ),
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

  acceptGenerator(wire: Wire, from?: string) {
    return this.hub.accept(wire, from)
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
    this.ways.dropAccount(id, this.machines.out().filter(m => m.provider === id).length)
  }

  /** `site/host` of hosts that have a machine of ours. */
  hostsInUse(): Set<string> {
    return new Set(
      this.machines
        .out()
        .flatMap(m =>
          m.provider === PRIVATE_ID && m.ref !== undefined ? [m.ref.split('/').slice(0, 2).join('/')] : [],
        ),
    )
  }

  generatorProgram(): Uint8Array {
    return this.generatorBundle().content
  }

  board(): BoardView {
    const now = this.options.clock.now()
    const out = this.machines.out().map(m => machineLine(m, [], now, this.money))
    // A calibration is told of while it holds a machine.
    return {
      runs: this.runs.linesOf(r => r.document.calibration === undefined || r.endedAt === undefined).slice(0, 20),
      out,
      plans: this.plans.list(),
    }
  }

  meter(): MeterView {
    const now = this.options.clock.now()
    const all = this.machines.out()
    const out = all.filter(m => m.allocatedAt !== undefined)
    const next = [...out].sort((a, b) => a.leaseEndsAt - b.leaseEndsAt)[0]
    const active = [...this.conductor.active.values()][0]
    const wanted = [...this.conductor.active.values()].reduce(
      (sum, r) => sum + r.document.fleet.reduce((s, o) => s + o.machines, 0),
      0,
    )
    return {
      now,
      machinesOut: out.length,
      machinesWanted: Math.max(wanted, out.length),
      perHour: out.reduce((sum, m) => sum + m.price.perHour + m.price.extrasPerHour, 0),
      today: this.money.today(now),
      budget: this.money.rails.budgetPerDay,
      nextLease: next && { location: next.location, name: next.name, endsAt: next.leaseEndsAt },
      loading: all.filter(m => m.state === 'loading' || m.state === 'draining').length,
      unconfirmed: all.filter(m => m.state === 'releaseUnconfirmed').length,
      run: active && { id: active.id, state: active.stored.state, startAt: active.stored.startAt },
      silent: [...this.fleet.silent].map(([id, { sentence }]) => ({
        provider: this.ways.get(id)?.name ?? id,
        sentence,
      })),
      strays: this.fleet.strays.length,
      counts: {
        waiting: this.conductor.active.size,
        journeys: this.library.journeys().length,
        plans: this.library.plans().filter(p => !p.archived).length,
        runs: this.runs.count(),
      },
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
    return (this.bundle ??= bundleOf(readFileSync(this.options.programs.generator)))
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
    this.options.clock.after(
      Math.min(TELL_FLEET_MOST_MS, TELL_FLEET_MS + TELL_FLEET_MS_PER_MACHINE * this.hub.connections.size),
      () => {
        this.fleetTold = false
        this.tell({ kind: 'fleet' })
      },
    )
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
