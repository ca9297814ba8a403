/**
 * Orders of machines. A run's wishes become rows first, so that nothing asked for can be forgotten; then each row is
 * taken to its provider, again and again while the provider says “later”, with a key that makes repeating harmless.
 * What waits already is taken before anything new.
 */
import { createHmac, randomBytes } from 'node:crypto'
import { priceOf } from '../../core/offers/cost'
import { joinsLate, orderOfPlace, placesOf, type FleetOrder } from '../../core/fleet/order'
import type { Location } from '../../core/plan/document'
import type { RunDocument } from '../../core/run/document'
import type { Machine, Waiting } from '../store/machines'
import type { FleetTools } from './fleet-tools'
import { hashOf } from '../link/generator-hub'
import type { Provider } from './providers/contract'
import { messageOf } from '../../core/values/thrown'
import { locationOf } from '../../core/plan/in-plan'
import { present } from '../../core/values/present'

/** Pause before a provider that was short is asked again, ms: first and longest. */
const AGAIN_FIRST_MS = 2000
const AGAIN_MOST_MS = 15_000
/** Token lives at least this long: the longest a machine may take to come, ms. */
const TOKEN_MS = 45 * 60_000
/** A machine whose place may be taken by another once. */
const MOST_ATTEMPTS = 2
const LOST_ON_THE_WAY = ['failed', 'refused', 'lost', 'reclaimed']

/** A machine waits for its time. */
export const FOR_PEAK = 'for-peak'

/** Where a new machine is to stand, and how long. `notBefore`: it is ordered then, ms since 1970; left out: at once. */
interface PlacedOrder {
  place: number
  name: string
  leaseMs: number
  attempt: number
  region: string
  notBefore?: number
}

/** How long its lease is once it is ordered, ms. Rows of earlier releases have only when it ends. */
export function leaseMsOf({
  wishes,
  leaseEndsAt,
  askedAt,
}: Pick<Machine, 'wishes' | 'leaseEndsAt' | 'askedAt'>): number {
  return wishes.leaseMs ?? leaseEndsAt - askedAt
}

export class Orders {
  private readonly underWay = new Set<string>()

  constructor(private readonly tools: FleetTools) {}

  /**
   * Gives every place of a run that is gathered a machine: one that waits, or a row for a new one. Repeating it changes
   * nothing. @param leaseMs of an order's machines
   */
  place(runId: number, document: RunDocument, leaseMs: (order: FleetOrder) => number): void {
    const { machines, clock } = this.tools
    const held = machines.ofRun(runId)
    const idle = machines.idle()
    for (const order of document.fleet) {
      if (joinsLate(order)) continue
      const location = locationOf(document.plan, order.location)
      for (const place of placesOf(document.fleet, order)) {
        if (held.some(m => m.location === order.location && m.place === place)) continue
        const name = `${order.location}-${place + 1}`
        const index = idle.findIndex(m => fits(m, location, order) && this.tools.connected(m.id))
        if (index >= 0)
          this.take(
            idle.splice(index, 1)[0]!,
            { runId, location: order.location, place, name },
            clock.now() + leaseMs(order),
          )
        else if (this.tools.providers.get(location.provider)?.way !== 'selfEnrolled')
          this.write(runId, order, location, {
            place,
            name,
            leaseMs: leaseMs(order),
            attempt: 1,
            region: location.region,
          })
      }
    }
  }

  /**
   * Writes a row for every machine that joins while the run loads; it is ordered when its time has come. Repeating it
   * changes nothing.
   */
  placeLate(runId: number, document: RunDocument, startAt: number, leaseMs: (order: FleetOrder) => number): void {
    const held = this.tools.machines.ofRun(runId)
    for (const order of document.fleet) {
      const { shift } = order
      if (!joinsLate(order) || !shift) continue
      const location = locationOf(document.plan, order.location)
      const notBefore = startAt + shift.fromMs - shift.leadMs
      for (const place of placesOf(document.fleet, order)) {
        if (held.some(m => m.location === order.location && m.place === place)) continue
        this.write(runId, order, location, {
          place,
          name: `${order.location}-${place + 1}`,
          leaseMs: leaseMs(order),
          attempt: 1,
          region: location.region,
          notBefore,
        })
      }
    }
  }

  /** Places whose machine was lost on its way get another one, once. @param which of the run's machines it is about */
  replaceLost(
    runId: number,
    document: RunDocument,
    leaseMs: (order: FleetOrder) => number,
    which: (order: FleetOrder) => boolean,
  ): void {
    const { machines, clock } = this.tools
    for (const machine of machines.ofRun(runId)) {
      if (!LOST_ON_THE_WAY.includes(machine.state) || machine.attempt >= MOST_ATTEMPTS) continue
      const order = orderOfPlace(document.fleet, machine.location, machine.place)
      const location = document.plan.locations.find(l => l.code === machine.location)
      if (!order || !location || !which(order)) continue
      const region = machine.wishes.elsewhere?.find(r => r !== machine.region) ?? location.region
      machines.together(() => {
        machines.replace(runId, machine.id, clock.now())
        this.write(runId, order, location, {
          place: machine.place,
          name: machine.name,
          leaseMs: leaseMs(order),
          attempt: machine.attempt + 1,
          region,
        })
      })
    }
  }

  /** Takes what is asked for to its providers; returns when those that could go have gone. */
  async fill(): Promise<void> {
    const { machines, providers, clock } = this.tools
    const out = machines.out()
    const now = clock.now()
    await Promise.all(
      [...providers.values()].map(async (provider) => {
        const mine = out.filter(m => m.provider === provider.id)
        let room =
          provider.mostBooting -
          mine.filter(m => ['allocated', 'booting', 'installing'].includes(m.state)).length -
          mine.filter(m => this.underWay.has(m.id)).length
        await Promise.all(
          mine
            .filter(m => m.state === 'asked' && !this.underWay.has(m.id) && (m.waits?.nextAt ?? 0) <= now)
            .map((machine) => {
              if (room-- <= 0)
                return this.wait(
                  machine,
                  {
                    code: 'in-turn',
                    sentence: `waits its turn: ${provider.mostBooting} machines of ${provider.name} are on their way`,
                  },
                  now + AGAIN_FIRST_MS / 4,
                )
              return this.order(provider, machine)
            }),
        )
      }),
    )
    for (const machine of out) {
      if (machine.state === 'asked' && !providers.has(machine.provider))
        this.refuse(machine.id, `there is no provider ${machine.provider}`)
    }
  }

  /** What a machine's generator is started with. */
  environmentOf(machine: Pick<Machine, 'id'>): Record<string, string> {
    const { door } = this.tools
    return {
      VORNAK_CONTROLLER: door.address(),
      ...(door.pin ? { VORNAK_PIN: door.pin } : {}),
      VORNAK_TOKEN: this.tokenFor(machine.id),
    }
  }

  private async order(provider: Provider, machine: Machine): Promise<void> {
    const { machines, clock, installation, mayTake, change } = this.tools
    const refusal = machine.triedAt === undefined ? mayTake(machine, clock.now()) : undefined
    if (refusal) return this.wait(machine, refusal, clock.now() + AGAIN_MOST_MS)
    this.underWay.add(machine.id)
    try {
      const leaseMs = leaseMsOf(machine)
      if (machine.triedAt === undefined) {
        // Time spent waiting is not taken off its lease.
        machines.setLease(machine.id, clock.now() + leaseMs)
        machines.setTried(machine.id, clock.now())
      }
      const answer = await provider.create({
        region: machine.region,
        type: machine.type,
        name: `${installation}-${machine.id}`,
        idempotencyKey: machine.idempotencyKey,
        environment: this.environmentOf(machine),
        endsAfterS: Math.ceil(leaseMs / 1000),
        interruptible: machine.price.interruptible,
        attached: machine.wishes.attached ?? {},
      })
      if (this.tools.stopped()) return
      if ('refusal' in answer) {
        machines.setTried(machine.id, undefined)
        if (!answer.refusal.passing) return this.refuse(machine.id, answer.refusal.sentence)
        return this.wait(machine, answer.refusal, this.nextTry(machine))
      }
      const current = present(machines.machine(machine.id), 'a machine that was ordered')
      const givenUp = current.releaseAskedAt !== undefined || current.goneAt !== undefined
      machines.together(() => {
        machines.setRef(machine.id, answer.ref, clock.now())
        if (!givenUp) change(machine.id, 'allocated', `${provider.name} gave ${answer.ref}`)
      })
      // Given up meanwhile: what has just been made is given back.
      if (givenUp) await provider.release(answer.ref)
    }
    catch (error) {
      // Whatever it was: it is not known whether the machine was made, and asking again with the same key tells.
      if (!this.tools.stopped())
        this.wait(machine, { code: 'silent', sentence: messageOf(error) }, clock.now() + AGAIN_FIRST_MS)
    }
    finally {
      this.underWay.delete(machine.id)
    }
  }

  private nextTry(machine: Machine): number {
    const now = this.tools.clock.now()
    const waited = machine.waits ? now - machine.waits.since : 0
    return now + Math.min(AGAIN_MOST_MS, Math.max(AGAIN_FIRST_MS, waited / 2))
  }

  /** Notes why a machine is not there yet; a new reason is told, the same one keeps its beginning. */
  private wait(machine: Machine, { code, sentence }: Pick<Waiting, 'code' | 'sentence'>, nextAt: number): void {
    const { machines, clock } = this.tools
    const now = clock.now()
    const before = machines.machine(machine.id)
    if (before?.state !== 'asked') return
    machines.setWaits(machine.id, {
      code,
      sentence,
      since: machine.waits?.code === code ? machine.waits.since : now,
      nextAt,
    })
    if (machine.waits?.sentence !== sentence && code !== 'in-turn')
      machines.remark(machine.id, 'asked', 'waits', sentence, now)
  }

  private refuse(machineId: string, sentence: string): void {
    const { machines, clock, change } = this.tools
    machines.together(() => {
      machines.setGone(machineId, clock.now())
      change(machineId, 'refused', sentence)
    })
  }

  private take(
    machine: Machine,
    { runId, location, place, name }: { runId: number, location: string, place: number, name: string },
    leaseEndsAt: number,
  ): void {
    const { machines, clock, change, extend } = this.tools
    machines.together(() => {
      machines.take(machine.id, { runId, location, place, name, at: clock.now() })
      change(machine.id, 'taken', `taken for run ${runId} as ${name}`)
    })
    if (machine.leaseEndsAt < leaseEndsAt)
      void extend(machine.id, leaseEndsAt, `run ${runId} needs it`).catch(() => {
        /* arming holds the lease against the run */
      })
  }

  /**
   * Kept with the row, so that asking again is the same order; and nobody else's, who has runs of the same numbers on
   * the same account: another installation, or this one's data brought back.
   */
  private orderKey(id: string): string {
    return `${this.tools.installation}/${id}-1/${randomBytes(8).toString('hex')}`
  }

  private write(runId: number, order: FleetOrder, location: Location, post: PlacedOrder): void {
    const { machines, clock } = this.tools
    const { name, attempt, leaseMs } = post
    const id = `r${runId}-${name.toLowerCase()}${attempt > 1 ? `-again${attempt > 2 ? attempt - 1 : ''}` : ''}`
    if (machines.machine(id)) return
    const now = clock.now()
    const begins = Math.max(now, post.notBefore ?? now)
    // The row and its token belong together.
    machines.together(() => {
      machines.create({
        id,
        runId,
        provider: location.provider,
        region: post.region,
        location: order.location,
        place: post.place,
        name,
        type: order.type.name,
        idempotencyKey: this.orderKey(id),
        askedAt: now,
        leaseEndsAt: begins + leaseMs,
        attempt,
        price: priceOf(order.type, order),
        wishes: {
          leaseMs,
          ...(order.attached ? { attached: order.attached } : {}),
          ...(order.elsewhere?.length ? { elsewhere: order.elsewhere } : {}),
        },
      })
      machines.addEnrolment(hashOf(this.tokenFor(id)), id, begins + TOKEN_MS + leaseMs)
      if (begins > now)
        machines.setWaits(id, {
          code: FOR_PEAK,
          sentence: `joins for the peak: ordered at ${new Date(begins).toISOString().slice(11, 19)} UTC`,
          since: now,
          nextAt: begins,
        })
    })
  }

  private tokenFor(machineId: string): string {
    return createHmac('sha256', this.tools.secret()).update(machineId).digest('base64url')
  }
}

/** Whether a waiting machine is what an order asks for. A machine that enrolled by itself is taken as it is. */
function fits(machine: Machine, location: Location, order: FleetOrder): boolean {
  if (
    !['enrolled', 'ready'].includes(machine.state) ||
    machine.provider !== location.provider ||
    machine.region !== location.region ||
    machine.reclaimAt !== undefined
  )
    return false
  return (
    machine.type === order.type.name &&
    machine.price.interruptible === (order.interruptible === true && order.type.interruptiblePerHour !== undefined)
  )
}
