/**
 * Capacities of generators: calibrated here, set by hand, refined from a run, or brought from elsewhere; and whether
 * what they were made of has changed since.
 */
import { createHash, randomUUID } from 'node:crypto'
import type { CapacityLine, CapacityView } from '../../api/views'
import { capacityByHand, fingerprintText, recommended, type Capacity } from '../../core/capacity/capacity'
import { meanRoundThinkMs, type Journey } from '../../core/journey/journey'
import { DIRECT } from '../../core/network/profile'
import type { SizedByCapacity } from '../../core/fleet/sized-by'
import { RELEASE } from '../../protocol/version'
import type { Clock } from '../clock'
import { ControlError, notFound } from '../errors'
import type { Offers } from './check-plan'
import type { Library } from './library'
import type { CapacityStore } from '../store/capacities'

export interface CapacitiesOptions {
  store: CapacityStore
  library: Library
  clock: Clock
  /** What providers offered when last asked. */
  remembered: () => Offers | undefined
  onChange: () => void
}

export class Capacities {
  private readonly hashes = new Map<string, string>()

  constructor(private readonly options: CapacitiesOptions) {}

  /** Capacities in use, with whether what they were made of has changed since. */
  current(): { capacities: readonly Capacity[], stale: string[] } {
    const capacities = this.options.store.all()
    return { capacities, stale: capacities.filter(c => this.staleness(c).length > 0).map(c => c.id) }
  }

  /** One, opened. */
  view(id: string): CapacityView {
    const { store, library } = this.options
    const found = store.capacity(id)
    if (!found) throw notFound(`capacity ${id}`)
    const { capacity, evidence } = found
    const same = store
      .all()
      .filter(
        c =>
          c.journeyId === capacity.journeyId &&
          c.network === capacity.network &&
          c.provider === capacity.provider &&
          c.machineType === capacity.machineType,
      )
    const others = store
      .all()
      .filter(
        c => c.journeyId === capacity.journeyId && c.provider === capacity.provider && c.outcome !== 'inconclusive',
      )
    const newest = [...new Map([...others].reverse().map(c => [`${c.machineType} ${c.network}`, c])).values()]
    return {
      line: this.line(capacity),
      ...(evidence ? { evidence } : {}),
      history: same.map(c => this.line(c)),
      comparison: newest.map(c => this.line(c)),
      plans: library
        .plans()
        .filter(
          p =>
            !p.archived &&
            p.plan.groups.some(g => g.journeyId === capacity.journeyId) &&
            p.plan.locations.some(l => l.provider === capacity.provider),
        )
        .map(p => ({ id: p.id, name: p.plan.name })),
    }
  }

  /** Sets a capacity by hand. @throws ControlError */
  setByHand(of: {
    journeyId: string
    network: string
    provider: string
    machineType: string
    vcpu: number
    users: number
    note?: string
  }): Capacity {
    const { library, store, clock } = this.options
    const { journey, version } = library.journey(of.journeyId)
    if (!(of.users >= 1))
      throw new ControlError(
        'capacity',
        400,
        'A capacity of 0 carries nobody.',
        'Give at least 1 user, or take the capacity away.',
      )
    const { users, note, ...about } = of
    const capacity = capacityByHand(users, {
      ...about,
      id: randomUUID(),
      journeyName: journey.name,
      responseMs: 100,
      thinkMs: meanRoundThinkMs(journey),
      fingerprint: this.fingerprint(journey, of.network, of.provider, of.machineType),
      journeyVersion: version,
      release: RELEASE,
      at: clock.now(),
      ...(note ? { note } : {}),
    })
    store.save(capacity)
    this.options.onChange()
    return capacity
  }

  /** Takes over what a run has shown; offered, never done in silence. */
  refine(capacityId: string, users: number, runId: number): Capacity {
    const { store, clock } = this.options
    const found = store.capacity(capacityId)
    if (!found) throw notFound(`capacity ${capacityId}`)
    const {
      capacity: { why: _, ...before },
    } = found
    const scale = users / before.users
    const capacity: Capacity = {
      ...before,
      id: randomUUID(),
      origin: 'refined',
      outcome: 'measured',
      users,
      lower: before.lower * scale,
      ...(before.upper === undefined ? {} : { upper: before.upper * scale }),
      signals: Object.fromEntries(
        Object.entries(before.signals).map(([s, c]) => [
          s,
          {
            ...c,
            users: c.users * scale,
            lower: c.lower * scale,
            ...(c.upper === undefined ? {} : { upper: c.upper * scale }),
          },
        ]),
      ),
      at: clock.now(),
      runId,
      note: `from run ${runId}`,
    }
    store.save(capacity)
    this.options.onChange()
    return capacity
  }

  /** Keeps capacities from elsewhere; those that are here already stay as they are. @returns how many are new */
  take(capacities: readonly Capacity[]): number {
    const { store } = this.options
    const here = new Set(store.all().map(c => c.id))
    const fresh = capacities.filter(c => !here.has(c.id))
    for (const capacity of fresh) store.save(capacity)
    this.options.onChange()
    return fresh.length
  }

  drop(id: string): void {
    if (!this.options.store.capacity(id)) throw notFound(`capacity ${id}`)
    this.options.store.drop(id)
    this.options.onChange()
  }

  /** What a run's document keeps of those it was sized by. */
  asSizedBy(ids: readonly string[]): SizedByCapacity[] {
    return this.all()
      .filter(c => ids.includes(c.id))
      .map(c => ({
        id: c.id,
        origin: c.origin,
        journeyName: c.journeyName,
        machineType: c.machineType,
        users: c.users,
        at: c.at,
        ...(c.signals.cpuShare ? { cpu: { users: c.signals.cpuShare.users, base: c.signals.cpuShare.base } } : {}),
        ...(c.runId === undefined ? {} : { runId: c.runId }),
      }))
  }

  /** The newest first. */
  all(): readonly Capacity[] {
    return this.options.store.all()
  }

  line(capacity: Capacity): CapacityLine {
    const users = capacity.outcome === 'inconclusive' ? 0 : recommended(capacity)
    const ratio = capacity.perHour && capacity.perHour > 0 && users > 0 ? users / capacity.perHour : undefined
    return {
      capacity,
      stale: this.staleness(capacity),
      recommended: users,
      ...(ratio === undefined ? {} : { usersPerMoneyHour: ratio }),
    }
  }

  /** What has changed since, in words. */
  private staleness(capacity: Capacity): string[] {
    const { library, remembered } = this.options
    const stored = library.store.journey(capacity.journeyId)
    if (!stored) return ['the journey is not there any more']
    const changed: string[] = []
    if (capacity.release !== RELEASE) changed.push(`it was made with release ${capacity.release}`)
    const type = Object.values(remembered() ?? {})
      .flatMap(o => o ?? [])
      .flatMap(o => o.types)
      .find(t => t.name === capacity.machineType)
    if (type && type.vcpu !== capacity.vcpu) changed.push(`${capacity.machineType} has ${type.vcpu} vCPU now`)
    if (
      changed.length > 0 ||
      this.fingerprint(stored.journey, capacity.network, capacity.provider, capacity.machineType) ===
        capacity.fingerprint
    )
      return changed
    if (capacity.network !== DIRECT && !library.networks().some(n => n.id === capacity.network))
      return ['its network profile is not there any more']
    return [
      stored.version === capacity.journeyVersion
        ? 'its network profile has changed'
        : `the journey has changed since version ${capacity.journeyVersion}`,
    ]
  }

  fingerprint(journey: Journey, network: string, provider: string, machineType: string): string {
    const text = fingerprintText({
      journey,
      network: this.options.library.networks().find(n => n.id === network),
      provider,
      machineType,
      release: RELEASE,
    })
    let hash = this.hashes.get(text)
    if (!hash) {
      if (this.hashes.size > 500) this.hashes.clear()
      this.hashes.set(text, (hash = createHash('sha256').update(text).digest('hex').slice(0, 32)))
    }
    return hash
  }
}
