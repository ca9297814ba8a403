/**
 * Calibrations in batches: asked for, begun one after the other as runs of their own, read when they are over, repeated
 * once when broken off.
 */
import { randomUUID } from 'node:crypto'
import type { CapacitiesView } from '../../api/views'
import { capacityFrom, type Capacity } from '../../core/capacity/capacity'
import type { CalibrationEvidence } from '../../core/capacity/calibration'
import { forecastBatch } from '../../core/checks/forecast-batch'
import { sayVerified, STOLEN_ASIDE_SHARE, WHY_INCONCLUSIVE } from '../../core/capacity/estimate'
import type { LevelPace } from '../../core/capacity/next-step'
import { saySignal } from '../../core/capacity/signals'
import { Demand, peakOfMoments } from '../../core/fleet/demand'
import type { LocationSizing } from '../../core/fleet/sizing'
import type { ExchangeRecord } from '../../core/journey/exchange-record'
import { meanRoundThinkMs } from '../../core/journey/journey'
import type { Target } from '../../core/journey/target'
import type { Plan } from '../../core/plan/document'
import type { RunDocument } from '../../core/run/document'
import { planInUsers } from '../../core/plan/expected'
import { RELEASE } from '../../protocol/version'
import type { Clock } from '../clock'
import { ControlError, notFound } from '../errors'
import type { Capacities } from '../library/capacities'
import type { CapacityStore } from '../store/capacities'
import type { StoredRun } from '../store/runs'
import type { CalibrationBatch, CalibrationItem, CalibrationWish } from '../../core/capacity/batch'
import { calibrationDocument, verifyDocument, type CalibrationAbout } from './run-document'
import { startSink, type Sink } from './sink'
import { WishChecks, type WishChecksOptions } from './wish-checks'
import { messageOf } from '../../core/values/thrown'
import { present } from '../../core/values/present'

/** Most users on one generator against the sink: more connections than this no process opens. */
const MOST_AGAINST_SINK = 15_000
/** An item that was broken off is tried again so often. */
const MOST_RUNS = 2
/** Batches shown. */
const MOST_BATCHES = 20

export interface CalibrationsOptions extends WishChecksOptions {
  store: CapacityStore
  capacities: Capacities
  clock: Clock
  sinkProgram: string
  /** How long levels are held, where not as usual. */
  pace?: LevelPace | undefined
  /** Makes a run and begins to lead it. */
  begin: (document: RunDocument) => number
  run: (id: number) => StoredRun | undefined
  /** Why a run ended as it did. */
  reasonOf: (id: number) => string
  stopRun: (id: number, reason: string) => void
  /** What a run that is under way has seen so far. */
  seen: (id: number) => CalibrationEvidence | undefined
  size: (plan: Plan) => Promise<LocationSizing[]>
  onChange: () => void
}

export class Calibrations {
  private readonly sinks = new Map<number, Sink>()
  private readonly checks: WishChecks
  /** Batches whose next item is being begun. */
  private readonly starting = new Set<number>()
  private readonly timer

  constructor(private readonly options: CalibrationsOptions) {
    this.checks = new WishChecks(options)
    this.timer = options.clock.every(1000, () => this.advance())
  }

  async view(): Promise<CapacitiesView> {
    const { store, capacities, library, offers } = this.options
    const offered = await offers()
    return {
      capacities: capacities.all().map(c => capacities.line(c)),
      batches: store.batches(MOST_BATCHES).map(b => this.batchView(b)),
      journeys: library.journeys().map(j => ({ id: j.id, name: j.name, kind: j.kind })),
      networks: library.networks().map(n => ({ id: n.id, name: n.name })),
      targets: library.targets(),
      offers: offered,
    }
  }

  batch(id: number) {
    const batch = this.options.store.batch(id)
    if (!batch) throw notFound(`calibration ${id}`)
    return this.batchView(batch)
  }

  /** Checks everything that can be checked before a machine is asked for. @throws ControlError */
  async begin(wish: CalibrationWish): Promise<number> {
    const { store, clock } = this.options
    const items = wish.verify
      ? [{ journeyId: '', network: 'mix', machineType: wish.types[0]!, state: 'waiting' as const, runIds: [] }]
      : wish.journeys.flatMap(journeyId =>
          wish.types.flatMap(machineType =>
            wish.networks.map((network): CalibrationItem => ({
              journeyId,
              network,
              machineType,
              state: 'waiting',
              runIds: [],
            })),
          ),
        )
    const batch: Omit<CalibrationBatch, 'id'> = { createdAt: clock.now(), wish, items }
    if (items.length === 0)
      throw new ControlError(
        'nothing-chosen',
        400,
        'Nothing is chosen to calibrate.',
        'Choose at least one journey, one machine type and one network.',
      )
    const target = this.checks.targetOf(wish)
    const journeys = this.checks.journeysOf(wish)
    const { offer, types } = await this.checks.placeOf(wish)
    this.checks.checkMoney(wish, forecastBatch(types, items.length / types.length, wish.machines).cost)
    if (offer.quota.most - offer.quota.used < wish.machines)
      throw new ControlError(
        'quota',
        409,
        offer.quota.most === 0
          ? `The quota of ${offer.region} is 0: no machine can be taken there.`
          : `${wish.machines} ${wish.machines === 1 ? 'machine is' : 'machines are'} wanted; ${offer.quota.most - offer.quota.used} of ${offer.quota.most} are free in ${offer.region}.`,
        'Choose another region, or release machines there.',
      )
    const records = await this.checks.tryAll(journeys, target)
    const id = store.createBatch(batch)
    if (wish.sink) await this.openSink(id, records)
    this.advance()
    return id
  }

  /** Ends a batch, and the run it is at. */
  stop(id: number, reason = 'stopped by hand'): void {
    const batch = this.options.store.openBatches().find(b => b.id === id)
    if (!batch) throw new ControlError('over', 409, `Calibration ${id} is over.`, 'Reload.')
    batch.stopped = true
    for (const item of batch.items) {
      if (item.state === 'running') this.options.stopRun(newestRun(item), reason)
      if (item.state === 'waiting') {
        item.state = 'failed'
        item.problem = reason
      }
    }
    this.options.store.saveBatch(batch)
    this.options.onChange()
  }

  stopAll(): void {
    this.timer.cancel()
    for (const sink of this.sinks.values()) sink.stop()
  }

  /** Brings every open batch one step on. */
  advance(): void {
    for (const batch of this.options.store.openBatches()) {
      const before = JSON.stringify(batch)
      for (const [index, item] of batch.items.entries()) {
        if (item.state === 'running') this.read(batch, item)
        if (item.state === 'running') break
        if (item.state !== 'waiting') continue
        if (!batch.stopped) void this.start(batch.id, index)
        break
      }
      if (batch.items.every(i => i.state === 'done' || i.state === 'failed')) {
        batch.endedAt = this.options.clock.now()
        this.sinks.get(batch.id)?.stop()
        this.sinks.delete(batch.id)
      }
      if (JSON.stringify(batch) === before) continue
      this.options.store.saveBatch(batch)
      this.options.onChange()
    }
  }

  /** Begins the run of an item. */
  private async start(batchId: number, index: number): Promise<void> {
    if (this.starting.has(batchId)) return
    this.starting.add(batchId)
    const { store } = this.options
    let found: Partial<CalibrationItem>
    try {
      found = {
        state: 'running',
        runIds: [
          this.options.begin(
            await this.documentOf(
              present(store.openBatches().find(b => b.id === batchId), 'a batch that has an item to begin'),
              index,
            ),
          ),
        ],
      }
    }
    catch (error) {
      // Nobody waits for this: an error that was not foreseen ends the item with its words, not the server.
      found = {
        state: 'failed',
        problem:
          error instanceof ControlError
            ? `${error.message} ${error.remedy}`
            : `It could not be begun: ${messageOf(error)}`,
      }
    }
    finally {
      this.starting.delete(batchId)
    }
    const batch = store.openBatches().find(b => b.id === batchId)
    const item = batch?.items[index]
    if (!batch || !item) return
    Object.assign(item, found, { runIds: [...item.runIds, ...(found.runIds ?? [])] })
    store.saveBatch(batch)
    if (batch.stopped && item.state === 'running') this.options.stopRun(newestRun(item), 'stopped by hand')
    this.options.onChange()
  }

  private async documentOf(batch: CalibrationBatch, index: number): Promise<RunDocument> {
    const { library } = this.options
    const { wish } = batch
    const item = batch.items[index]!
    const real = this.checks.targetOf(wish)
    const { offer, types } = await this.checks.placeOf(wish)
    const type = present(types.find(t => t.name === item.machineType), 'a type that was checked to be offered')
    if (wish.sink && !this.sinks.has(batch.id))
      await this.openSink(batch.id, await this.checks.tryAll(this.checks.journeysOf(wish), real))
    const sink = this.sinks.get(batch.id)
    // A calibration that asked for the sink never gets the target instead.
    if (wish.sink && !sink)
      throw new ControlError(
        'sink',
        500,
        'The built-in sink has ended.',
        'Start the calibration again; see the console of the server.',
      )
    const target = sink ? toSink(real, sink.address) : real
    const most = Math.max(
      1,
      Math.floor(
        (sink ? Math.min(MOST_AGAINST_SINK, this.options.rails().rails.mostUsers) : approvalOf(real).mostUsers) /
          wish.machines,
      ),
    )
    const about: CalibrationAbout = {
      batch: batch.id,
      item: index,
      provider: wish.provider,
      offer,
      type,
      machines: wish.machines,
      code: wish.verify?.location ?? this.codeFor(wish),
      target,
      sink: wish.sink,
      mostStolenShare: wish.mostStolenShare,
      most,
      seed: batch.id * 1000 + index,
      pace: this.options.pace,
    }
    if (wish.verify) return this.verification(wish.verify, about)
    const { journey, version } = library.journey(item.journeyId)
    return calibrationDocument(
      journey,
      library.networks().find(n => n.id === item.network),
      version,
      about,
    )
  }

  /** One generator's part of a location at its heaviest moment, as the plan is sized. */
  private async verification(
    { planId, location }: NonNullable<CalibrationWish['verify']>,
    about: CalibrationAbout,
  ): Promise<RunDocument> {
    const { library } = this.options
    const plan = library.plan(planId)?.plan
    const at = plan?.locations.findIndex(l => l.code === location) ?? -1
    if (!plan || at < 0) throw notFound(`location ${location} of plan ${planId}`)
    const sizing = (await this.options.size(plan)).find(s => s.code === location)
    const carries = sizing?.machines.find(m => m.type.name === about.type.name)?.carries
    const moments = new Demand(planInUsers(plan, library.journeys())).at(at)
    const heaviest = moments.find(m => m.users.reduce((sum, n) => sum + n, 0) === peakOfMoments(moments))
    if (!carries || !heaviest)
      throw new ControlError(
        'nobody-here',
        409,
        `${location} has no ${about.type.name} with users.`,
        'Choose a location and type of the plan that has users.',
      )
    const total = heaviest.users.reduce((sum, n) => sum + n, 0)
    const users = heaviest.users.map(n => Math.round((n * Math.min(carries, about.most)) / total))
    const used = plan.groups.map(g => library.journey(g.journeyId))
    return verifyDocument(
      plan,
      users,
      used.map(u => u.journey),
      library.networks(),
      Object.fromEntries(used.map(u => [u.id, u.version])),
      about,
    )
  }

  /** Reads the run of an item, once it has ended. */
  private read(batch: CalibrationBatch, item: CalibrationItem): void {
    const { run: runOf, reasonOf } = this.options
    const run = runOf(newestRun(item))
    if (!run) return
    const sinkLost = batch.wish.sink && !this.sinks.has(batch.id)
    if (run.endedAt === undefined) {
      // Nobody answers any more: what would be measured is no journey.
      if (sinkLost && !item.brokenBy) {
        item.brokenBy = 'the built-in sink has ended'
        this.options.stopRun(run.id, item.brokenBy)
      }
      return
    }
    const seen = run.summary?.calibration
    const evidence = sinkLost && seen?.estimate.outcome === 'inconclusive' ? undefined : seen
    if (evidence && run.document.calibration?.kind === 'verify') {
      item.state = 'done'
      item.verdict = sayVerified(evidence)
      return
    }
    if (evidence) {
      const capacity = this.capacityOf(batch, item, run, evidence)
      this.options.store.save(capacity, evidence)
      item.capacityId = capacity.id
      item.state = 'done'
      if (capacity.outcome === 'inconclusive' && capacity.why) {
        const { sentence, next } = WHY_INCONCLUSIVE[capacity.why]
        item.problem = `${sentence} ${next}`
      }
      return
    }
    // Broken off in the middle: once more, unless somebody ended it or it never could begin.
    const broken = run.state === 'settled' || item.brokenBy !== undefined
    if (broken && item.runIds.length < MOST_RUNS && !batch.stopped) {
      item.state = 'waiting'
      delete item.brokenBy
      return
    }
    item.state = 'failed'
    item.problem =
      item.brokenBy && !batch.stopped
        ? `Not known: ${item.brokenBy}, twice. Look at the console of the server, then calibrate again.`
        : run.state === 'stopped' || run.state === 'aborted'
          ? `Run ${run.id} was ${run.state}.`
          : run.state === 'settled'
            ? `${WHY_INCONCLUSIVE.broken.sentence} ${WHY_INCONCLUSIVE.broken.next}`
            : `Not run: ${reasonOf(run.id)}`
  }

  private capacityOf(
    batch: CalibrationBatch,
    item: CalibrationItem,
    run: StoredRun,
    evidence: CalibrationEvidence,
  ): Capacity {
    const { document } = run
    const journey = document.journeys[0]!
    const order = document.fleet[0]!
    const { perMachine, machine, bytesPerPass } = evidence
    const mean = perMachine.reduce((sum, n) => sum + n, 0) / Math.max(1, perMachine.length)
    const spread =
      perMachine.length > 1
        ? Math.sqrt(perMachine.reduce((sum, n) => sum + (n - mean) ** 2, 0) / (perMachine.length - 1)) / mean
        : undefined
    const capacity = capacityFrom(
      evidence.estimate,
      {
        id: randomUUID(),
        origin: 'calibrated',
        journeyId: journey.id,
        journeyName: journey.name,
        network: item.network,
        provider: batch.wish.provider,
        machineType: item.machineType,
        vcpu: order.type.vcpu,
        thinkMs: meanRoundThinkMs(journey),
        machines: order.machines,
        ...(spread === undefined ? {} : { spread }),
        fingerprint: this.options.capacities.fingerprint(journey, item.network, batch.wish.provider, item.machineType),
        journeyVersion: document.journeyVersions?.[journey.id] ?? 0,
        release: RELEASE,
        at: this.options.clock.now(),
        runId: run.id,
        ...stolenNote(batch.wish),
        location: document.plan.locations[0]!.region,
        target: batch.wish.sink ? 'built-in sink' : document.target.name,
        perHour: order.type.pricePerHour,
        currency: order.type.currency ?? 'EUR',
      },
      { ...machine, ...(bytesPerPass === undefined ? {} : { bytesPerPass }) },
      journey,
    )
    if (perMachine.length < 2 || capacity.lower === 0) return capacity
    // What the slowest sibling carries is what any may have to.
    const slowest = Math.min(1, Math.min(...perMachine) / capacity.lower)
    return {
      ...capacity,
      lower: capacity.lower * slowest,
      signals: Object.fromEntries(
        Object.entries(capacity.signals).map(([signal, c]) => [signal, { ...c, lower: c.lower * slowest }]),
      ),
    }
  }

  private batchView(batch: CalibrationBatch) {
    const at = batch.items.find(i => i.state === 'running')
    const runId = at?.runIds.at(-1)
    const run = runId === undefined ? undefined : this.options.run(runId)
    const seen = runId === undefined ? undefined : this.options.seen(runId)
    return {
      ...batch,
      ...(run
        ? { run: { id: run.id, state: run.state, ...(run.startAt === undefined ? {} : { startAt: run.startAt }) } }
        : {}),
      ...(seen ? { seen } : {}),
    }
  }

  private async openSink(batchId: number, records: readonly ExchangeRecord[]): Promise<void> {
    const foreign = new Set(records.map(r => new URL(r.request.url).host))
    if (foreign.size > 1)
      throw new ControlError(
        'sink-hosts',
        409,
        `The journey asks ${foreign.size} hosts by their own addresses (${[...foreign].join(', ')}): the built-in sink is one.`,
        'Calibrate against the target itself, within its approval.',
      )
    this.sinks.set(batchId, await startSink(this.options.sinkProgram, records, () => this.sinks.delete(batchId)))
  }

  /** The letters its region already goes by, or the first of its name. */
  private codeFor({ provider, region }: CalibrationWish): string {
    const known = this.options.library
      .plans()
      .flatMap(p => p.plan.locations)
      .find(l => l.provider === provider && l.region === region)
    return (
      known?.code ??
      region
        .toUpperCase()
        .replace(/[^A-Z]/g, '')
        .padEnd(3, 'X')
        .slice(0, 3)
    )
  }
}

/** Says when more than is usual may have been stolen in the seconds that counted. */
function stolenNote({ mostStolenShare = STOLEN_ASIDE_SHARE }: CalibrationWish): { note?: string } {
  if (mostStolenShare <= STOLEN_ASIDE_SHARE) return {}
  return {
    note:
      mostStolenShare >= 1
        ? 'Every second counted, whatever neighbours took of its CPU.'
        : `Seconds counted in which neighbours took up to ${saySignal('stolenShare', mostStolenShare)} of its CPU.`,
  }
}

/** The target with every address of its own at the sink. */
function toSink(target: Target, address: string): Target {
  const there = (url: string) => {
    const { pathname } = new URL(url)
    return address + (pathname === '/' ? '' : pathname)
  }
  const { trust: _, ...plain } = target
  return {
    ...plain,
    baseUrl: there(target.baseUrl),
    ...(target.addresses
      ? { addresses: Object.fromEntries(Object.entries(target.addresses).map(([name, url]) => [name, there(url)])) }
      : {}),
    approval: {
      hosts: [new URL(address).host],
      mostUsers: MOST_AGAINST_SINK,
      until: approvalOf(target).until,
      contact: 'Vornak’s own sink',
    },
  }
}

/** A calibration is checked to have one before it begins. */
function approvalOf({ approval }: Target): NonNullable<Target['approval']> {
  return present(approval, 'the approval of a target that is calibrated')
}

/** Of an item that runs. */
function newestRun({ runIds }: CalibrationItem): number {
  return present(runIds.at(-1), 'the run of an item that has begun')
}
