/** Plans: listed, checked, saved in versions, cloned, put away, read from and written as text. */
import { ownOf } from '../../core/values/own'
import type { PlanChangesView, PlanCheck, PlanLine, PlanView, RunLine } from '../../api/views'
import { printPlan } from '../../core/formats/plan-text'
import type { Plan } from '../../core/plan/document'
import type { RunDocument } from '../../core/run/document'
import { changesBetween } from '../../core/checks/differences'
import { planInUsers } from '../../core/plan/expected'
import { peakOfPlan } from '../../core/plan/peak'
import { clientsUsed, networksUsed } from '../../core/plan/shares'
import { PLAN_SCHEMA_NAME } from '../../core/plan/upgrade'
import type { Answer } from '../../core/objectives/judge'
import type { Clock } from '../clock'
import { inTheWay, notFound } from '../errors'
import type { StoredPlan } from '../store/library'
import type { Capacities } from './capacities'
import { checkPlan, ordersOf, sizingAround, type Allowance, type CheckAround, type Offers } from './check-plan'
import type { Sizer } from './sizer'
import type { LocationSizing } from '../../core/fleet/sizing'
import type { Library } from './library'
import { locationOf } from '../../core/plan/in-plan'

export interface PlansOptions {
  library: Library
  capacities: Capacities
  sizer: Pick<Sizer, 'size' | 'sizeNow'>
  clock: Clock
  /** What providers offer now, asked `anew` where that matters; `remembered`: what they offered when last asked. */
  offers: (anew?: boolean) => Promise<Offers>
  remembered: () => Offers | undefined
  /** Guard rails, and what is spent of them. */
  allowance: () => Allowance
  runLines: () => RunLine[]
  lastRunOf: (planId: string) => (RunLine & { answer: Answer | undefined }) | undefined
}

export class Plans {
  constructor(private readonly options: PlansOptions) {}

  /** @param archived those that were put away instead */
  list(archived = false): PlanLine[] {
    const { library, remembered } = this.options
    const runs = this.options.runLines()
    const offers = remembered()
    const journeys = library.journeys()
    return library
      .plans()
      .filter(p => p.archived === archived)
      .map(({ id, version, savedAt, plan }) => ({
        id,
        version,
        savedAt,
        name: plan.name,
        question: plan.question,
        tags: plan.tags ?? [],
        target: library.target(plan.targetId)?.name ?? '?',
        peakUsers: peakOfPlan(planInUsers(plan, journeys)),
        groups: plan.groups.length,
        locations: plan.locations.length,
        archived,
        lastRun: runs.find(l => l.planId === id),
        problemsInTheWay: this.checkNow(plan, offers ?? {}).problems.filter(
          p => p.weight === 'inTheWay' && (offers || p.code !== 'provider-silent'),
        ).length,
      }))
  }

  async view(id: string, version?: number): Promise<PlanView> {
    const { library, offers, lastRunOf } = this.options
    const stored = this.stored(id, version)
    const offered = await offers()
    return {
      ...stored,
      latest: this.stored(id).version,
      target: library.target(stored.plan.targetId),
      targets: library.targets(),
      journeys: library.journeys(),
      networks: library.networks(),
      clients: library.clients(),
      offers: offered,
      check: await this.checkAgainst(stored.plan, offered),
      lastRun: lastRunOf(id),
      history: library.store
        .planHistory(id)
        .map(({ version: v, savedAt, plan }) => ({ version: v, savedAt, name: plan.name })),
    }
  }

  async check(plan: Plan): Promise<PlanCheck> {
    return this.checkAgainst(plan, await this.options.offers())
  }

  async checkAgainst(plan: Plan, offers: Offers): Promise<PlanCheck> {
    return this.checked(plan, offers, await this.size(plan, offers))
  }

  /** Machines of a plan at each location. */
  async size(plan: Plan, offers: Offers): Promise<LocationSizing[]> {
    const { plan: inUsers, around } = sizingAround(plan, this.around(plan), offers)
    return this.options.sizer.size(inUsers, around)
  }

  private checkNow(plan: Plan, offers: Offers): PlanCheck {
    const { plan: inUsers, around } = sizingAround(plan, this.around(plan), offers)
    return this.checked(plan, offers, this.options.sizer.sizeNow(inUsers, around))
  }

  private checked(plan: Plan, offers: Offers, sizing: LocationSizing[], around = this.around(plan)): PlanCheck {
    const { clock, allowance } = this.options
    return checkPlan(plan, around, offers, clock.now(), sizing, allowance())
  }

  /**
   * A run's own document, once more: its plan, journeys, networks and machines as they were, held against the approval
   * its target has now, what providers offer, and the guard rails. @throws ControlError when something is in the way
   */
  async again(document: RunDocument): Promise<RunDocument> {
    const { library, capacities, sizer } = this.options
    const { plan } = document
    const present = library.target(document.target.id)
    if (!present) throw inTheWay([`The target ${document.target.name} does not exist any more.`])
    library.secretsOf(present)
    const { approval: _, ...then } = document.target
    const target = { ...then, ...(present.approval ? { approval: present.approval } : {}) }
    const around: CheckAround = {
      target,
      journeys: document.journeys,
      feeds: library.feedColumns(),
      networks: document.networks ?? [],
      clients: document.clients ?? [],
      capacities: capacities.current(),
    }
    const offers = await this.options.offers(true)
    const sized = sizingAround(plan, around, offers)
    const { problems, forecast } = this.checked(plan, offers, await sizer.size(sized.plan, sized.around), around)
    const blocking = problems.filter(p => p.weight === 'inTheWay').map(p => p.sentence)
    for (const order of document.fleet) {
      const { provider, region } = locationOf(plan, order.location)
      const offer = ownOf(offers, provider)?.find(o => o.region === region)
      if (offer && !offer.selfEnrolled && !offer.types.some(t => t.name === order.type.name))
        blocking.push(`${order.location}: ${region} does not offer ${order.type.name} any more.`)
    }
    if (blocking.length > 0) throw inTheWay([...new Set(blocking)])
    return { ...document, target, forecast }
  }

  private around(plan: Plan): CheckAround {
    const { library, capacities } = this.options
    return {
      target: library.target(plan.targetId),
      journeys: library.journeys(),
      feeds: library.feedColumns(),
      networks: library.networks(),
      clients: library.clients(),
      capacities: capacities.current(),
    }
  }

  /** What a run of a plan goes by, as everything is now. @throws ControlError when something is in the way */
  async toRun(id: string): Promise<{ document: RunDocument, version: number }> {
    const { library, capacities } = this.options
    const { plan, version } = this.stored(id)
    const target = library.target(plan.targetId)
    // A key that does not fit is found now, not when everybody waits.
    if (target) library.secretsOf(target)
    const offers = await this.options.offers(true)
    const { problems, forecast, sizes } = await this.checkAgainst(plan, offers)
    const blocking = problems.filter(p => p.weight === 'inTheWay')
    if (blocking.length > 0 || !target) throw inTheWay(blocking.map(p => p.sentence))
    const used = library.store.journeys().filter(s => plan.groups.some(g => g.journeyId === s.id))
    const feeds = library.feeds().filter(f => used.some(s => (s.journey.feeds ?? []).some(u => u.feed === f.id)))
    const document: RunDocument = {
      plan,
      planVersion: version,
      forecast,
      target,
      journeys: used.map(s => s.journey),
      fleet: ordersOf(plan, offers, sizes),
      sizedBy: sizes
        .filter(s => s.users > 0)
        .map(s => ({ location: s.code, basis: s.basis, capacities: capacities.asSizedBy(s.basedOn) })),
      networks: library.networks().filter(n => networksUsed(plan).includes(n.id)),
      clients: library.clients().filter(c => clientsUsed(plan).includes(c.id)),
      journeyVersions: Object.fromEntries(used.map(s => [s.id, s.version])),
      feeds: Object.fromEntries(feeds.map(f => [f.id, { columns: f.columns, rows: f.rows }])),
    }
    return { document, version }
  }

  save(id: string, plan: Plan, onVersion: number): StoredPlan {
    return this.options.library.savePlan(id, plan, onVersion)
  }

  /** A plan with nothing in it but its question. */
  async create(name: string, question: string, targetId: string): Promise<StoredPlan> {
    const { library } = this.options
    const plan: Plan = {
      schema: PLAN_SCHEMA_NAME,
      name,
      question,
      targetId,
      groups: [],
      locations: [],
      placement: {},
      objectives: [],
      assumedUsersPerVcpu: 60,
      rehearse: true,
      keepMachinesMin: 0,
      seed: Math.floor(this.options.clock.now()) % 4_294_967_296,
    }
    return this.save(
      library.freeId(name, id => library.plan(id) !== undefined),
      plan,
      0,
    )
  }

  /** @param version of the plan that is copied; left out: the last */
  clone(id: string, version?: number): StoredPlan {
    const { library } = this.options
    const { plan } = this.stored(id, version)
    const names = new Set(library.plans().map(p => p.plan.name))
    let name = `${plan.name}, again`.slice(0, 80)
    for (let n = 2; names.has(name); n++) name = `${plan.name}, again ${n}`.slice(0, 80)
    return this.save(
      library.freeId(name, other => library.plan(other) !== undefined),
      { ...plan, name },
      0,
    )
  }

  setArchived(id: string, archived: boolean): void {
    this.stored(id)
    this.options.library.store.archivePlan(id, archived, this.options.clock.now())
  }

  /** What the second version changed against the first. */
  changes(id: string, from: number, to: number): PlanChangesView {
    const [a, b] = [this.stored(id, from), this.stored(id, to)]
    return {
      from,
      to,
      changes: changesBetween(a.plan, b.plan, this.options.library.journeys()),
      before: printPlan(a.plan),
      after: printPlan(b.plan),
    }
  }

  /** As the published file. */
  text(id: string, version?: number): string {
    return printPlan(this.stored(id, version).plan)
  }

  /** Keeps a plan read from a file as a new one. */
  keep(plan: Plan): StoredPlan {
    const { library } = this.options
    return this.save(
      library.freeId(plan.name, id => library.plan(id) !== undefined),
      plan,
      0,
    )
  }

  stored(id: string, version?: number): StoredPlan {
    const stored = this.options.library.store.plan(id, version)
    if (!stored) throw notFound(version === undefined ? `plan ${id}` : `version ${version} of plan ${id}`)
    return stored
  }
}
