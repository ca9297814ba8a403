/**
 * Looks after machines: takes orders to providers, follows what providers say, ends leases, gives machines back and
 * waits for the confirmation. Every change of a machine's state passes through {@link Fleet.change}.
 */
import { joinsLate, type FleetOrder } from '../../core/fleet/order'
import type { RunDocument } from '../../core/run/document'
import { runLengthMs } from '../../core/plan/length'
import type { Machine } from '../store/machines'
import { afterEvent, GONE_WRONG, IN_HAND, type MachineEvent } from '../../core/run/machine-life'
import { Orders } from './orders'
import { ProviderSilent, type Provider } from './providers/contract'
import { reconcile, type Missing, type Stray } from './reconciling'
import { StageTimes, TIMED_STAGES } from './stage-times'
import type { FleetListener, FleetOptions, FleetTools } from './fleet-tools'
import { messageOf } from '../../core/values/thrown'
import { present } from '../../core/values/present'

/** How often providers are asked while a machine is out, and otherwise, ms. */
const WATCH_MS = 500
const IDLE_WATCH_MS = 5000
/** A release not confirmed after this is said to be unconfirmed; it goes on being asked for, ms. */
const RELEASE_TIMEOUT_MS = 30_000
/** Pause between one asking for a release and the next, ms. */
const RELEASE_AGAIN_MS = 5000
/**
 * A generator that carries no load and says nothing for this long is lost, ms; one that loads when its grace is surely
 * over; both at once when the provider says the machine has ended.
 */
const LOST_AFTER_MS = 20_000
/** Lease beyond the planned end of a run, ms. */
const LEASE_MARGIN_MS = 10 * 60_000
/** Time for gathering in a lease: the longest a machine may take, ms. */
const GATHERING_MS = 4 * 60_000
/** A run needs its machines this long beyond its last user, ms. */
export const LEASE_BEYOND_RUN_MS = 60_000
/** Bills are looked for this long after a machine has gone, and this often, ms. */
const BILLS_FOR_MS = 3_600_000
const BILLS_EVERY_MS = 3000

export class Fleet {
  strays: Stray[] = []
  private readonly missing: Missing = new Map()
  /** Since when a provider has been silent. */
  readonly silent = new Map<string, { since: number, sentence: string }>()
  readonly stageTimes: StageTimes
  /** Those who are told. */
  listener: FleetListener
  private readonly orders: Orders
  private readonly tools: FleetTools
  /** When each machine's release was last asked for. */
  private readonly askedAgain = new Map<string, number>()
  private readonly looking = new Map<string, Promise<void>>()
  /** When each provider is asked for bills again, ms since 1970. */
  private readonly billsAt = new Map<string, number>()
  /** While Vornak was away nobody could enrol or be signed in to: a stage's time begins again with it. */
  private readonly hereSince: number
  private stopped = false

  constructor(private readonly options: FleetOptions) {
    this.hereSince = options.clock.now()
    this.listener = options.listener ?? {}
    this.tools = {
      mayTake: () => undefined,
      ...options,
      onReclaim: machine => this.listener.onReclaim?.(machine),
      change: (...of) => this.change(...of),
      extend: (...of) => this.extend(...of),
      stopped: () => this.stopped,
    }
    this.stageTimes = new StageTimes(options.machines, options.bounds)
    this.orders = new Orders(this.tools)
    this.watch()
  }

  /**
   * Gives every place of a run that gathers a machine or an order; those for the peak come later. Repeating it orders
   * nothing twice.
   */
  place(runId: number, document: RunDocument): void {
    const leaseMs = (order: FleetOrder) => leaseLength(document, order)
    this.orders.place(runId, document, leaseMs)
    this.orders.replaceLost(runId, document, leaseMs, order => !joinsLate(order))
  }

  /** The same for machines that join while the run loads. */
  placeLate(runId: number, document: RunDocument, startAt: number): void {
    const leaseMs = (order: FleetOrder) => leaseLength(document, order)
    this.orders.placeLate(runId, document, startAt, leaseMs)
    this.orders.replaceLost(runId, document, leaseMs, joinsLate)
  }

  /** Takes orders to providers, and looks. */
  async fill(): Promise<void> {
    await this.orders.fill()
    await this.look()
  }

  /** Gives back every machine of a run that is not gone. @throws ProviderSilent when one could not be told */
  async release(runId: number, reason: string): Promise<void> {
    const all = this.options.machines
      .everOfRun(runId)
      .filter(m => m.machine.runId === runId && m.machine.goneAt === undefined)
    await this.all(
      all.map(({ machine }) =>
        this.isOwn(machine) && IN_HAND.includes(machine.state)
          ? this.letGo(machine, machine.leaseEndsAt, reason)
          : this.releaseMachine(machine.id, reason),
      ),
    )
    await this.look()
  }

  /** A run is over: its machines wait for the next until a moment, and broken ones are released. */
  async keep(runId: number, until: number, reason: string): Promise<void> {
    const { machines } = this.options
    await this.all(
      machines
        .everOfRun(runId)
        .filter(m => m.machine.runId === runId && m.machine.goneAt === undefined)
        .map(({ machine }) => {
          if (!IN_HAND.includes(machine.state)) return this.releaseMachine(machine.id, 'it is not fit to be kept')
          return this.letGo(machine, this.isOwn(machine) ? machine.leaseEndsAt : until, reason)
        }),
    )
  }

  async releaseMachine(machineId: string, reason: string): Promise<void> {
    const { machines, providers, clock, dismiss } = this.options
    const machine = machines.machine(machineId)
    if (!machine || machine.goneAt !== undefined) return
    const now = clock.now()
    this.askedAgain.set(machineId, now)
    // Asking again changes nothing: it stays unconfirmed until the provider says otherwise.
    if (machine.releaseAskedAt === undefined)
      machines.together(() => {
        machines.setReleaseAsked(machineId, now)
        this.change(machineId, 'releaseAsked', reason)
      })
    const provider = providers.get(machine.provider)
    if (machine.ref === undefined) {
      // An order that was under way may still be carried out: then it is found in the provider's list, and given back.
      if (provider && machine.triedAt !== undefined) return
      machines.together(() => {
        machines.setGone(machineId, now)
        this.change(machineId, 'goneConfirmed', `${reason}; it was never allocated`)
      })
      return
    }
    dismiss?.(machineId, reason)
    if (!provider)
      throw new ProviderSilent(
        `${machine.provider} is not set up here any more: add the account again, so that ${machine.name} can be given back`,
      )
    await provider.release(machine.ref)
  }

  async releaseStray(provider: string, ref: string): Promise<void> {
    await this.options.providers.get(provider)?.release(ref)
    await this.look()
  }

  /** Moves the end of a lease, at the provider first. @throws ProviderSilent */
  async extend(machineId: string, leaseEndsAt: number, reason: string): Promise<void> {
    const { machines, providers, clock } = this.options
    const machine = machines.machine(machineId)
    if (!machine || machine.goneAt !== undefined) return
    const provider = providers.get(machine.provider)
    if (machine.ref !== undefined) await provider?.extend?.(machine.ref, Math.ceil((leaseEndsAt - clock.now()) / 1000))
    machines.setLease(machineId, leaseEndsAt)
    machines.remark(
      machineId,
      machine.state,
      'leaseMoved',
      `its lease ends ${new Date(leaseEndsAt).toISOString().slice(11, 19)} UTC: ${reason}`,
      clock.now(),
    )
  }

  /** Frames a generator left on its machine because it could not send them. @throws ProviderSilent */
  async salvage(machineId: string): Promise<Uint8Array[]> {
    const machine = this.options.machines.machine(machineId)
    if (!machine || machine.ref === undefined || machine.goneAt !== undefined) return []
    const left = await this.options.providers.get(machine.provider)?.salvage?.(machine.ref)
    const frames: Uint8Array[] = []
    // Each with its length before it, 4 bytes big endian.
    for (let at = 0; left && at + 4 <= left.length;) {
      const length = new DataView(left.buffer, left.byteOffset + at, 4).getUint32(0)
      frames.push(left.subarray(at + 4, at + 4 + length))
      at += 4 + length
    }
    return frames
  }

  /** Applies an event to a machine; one that means nothing in its state is ignored. */
  change(machineId: string, event: MachineEvent, reason: string): boolean {
    const { machines, clock } = this.options
    const machine = machines.machine(machineId)
    const to = machine && afterEvent(machine.state, event)
    if (!machine || !to) return false
    machines.change(machineId, { at: clock.now(), from: machine.state, to, event, reason })
    this.listener.onChange?.({ ...machine, state: to, since: clock.now() }, machine.state, reason)
    return true
  }

  /** Asks the providers once, now. A provider that is being asked already is not asked twice. */
  async look(): Promise<void> {
    await Promise.all(
      [...this.options.providers.values()].map((provider) => {
        const running = this.looking.get(provider.id)
        if (running) return running
        const look = this.lookAt(provider).finally(() => this.looking.delete(provider.id))
        this.looking.set(provider.id, look)
        return look
      }),
    )
    this.strays = this.strays.filter(s => this.options.providers.has(s.provider))
    if (!this.stopped) await this.checkTimes()
  }

  /** A machine's token was presented a second time. */
  tokenReused(machineId: string): void {
    const { machines, clock } = this.options
    const machine = machines.machine(machineId)
    if (!machine) return
    const said = 'its token was presented a second time and refused'
    machines.remark(machineId, machine.state, 'tokenReused', said, clock.now())
  }

  stop(): void {
    this.stopped = true
  }

  private watch(): void {
    if (this.stopped) return
    const out = this.options.machines.out().length > 0
    this.options.clock.after(out ? WATCH_MS : IDLE_WATCH_MS, () => {
      if (this.stopped) return
      // A provider that takes its time holds up neither the others nor the next look.
      void this.look()
      void this.orders.fill()
      this.watch()
    })
  }

  private async lookAt(provider: Provider): Promise<void> {
    const { clock, machines } = this.options
    try {
      const askedAt = clock.now()
      for (const machine of provider.attend ? machines.out() : []) {
        if (machine.provider !== provider.id || machine.ref === undefined) continue
        provider.attend?.({
          ending: machine.releaseAskedAt !== undefined,
          ref: machine.ref,
          name: `${this.options.installation}-${machine.id}`,
          region: machine.region,
          environment: this.orders.environmentOf(machine),
          endsAfterS: Math.ceil((machine.leaseEndsAt - askedAt) / 1000),
        })
      }
      const listed = await provider.list()
      // The answer may come after the store is closed: the next process looks for itself.
      if (this.stopped) return
      const strays = reconcile(this.tools, provider, listed, askedAt, this.strays, this.missing)
      const before = this.strays.filter(s => s.provider === provider.id).map(s => s.machine.ref)
      this.strays = [...this.strays.filter(s => s.provider !== provider.id), ...strays]
      if (before.join() !== strays.map(s => s.machine.ref).join()) this.listener.onStrays?.()
      for (const stray of strays) if (stray.why === 'outlived') await provider.release(stray.machine.ref)
      await this.readBills(provider)
      this.silent.delete(provider.id)
    }
    catch (error) {
      // Whatever it was, it is this provider's, and it is said on the fleet screen; the others are looked at as ever.
      if (!this.stopped && !this.silent.has(provider.id))
        this.silent.set(provider.id, { since: clock.now(), sentence: messageOf(error) })
    }
  }

  /** The provider's own bill of what has gone is kept beside what was reckoned. */
  private async readBills(provider: Provider): Promise<void> {
    const { clock, machines } = this.options
    if (!provider.bills || clock.now() < (this.billsAt.get(provider.id) ?? 0)) return
    const waiting = machines.unbilled(clock.now() - BILLS_FOR_MS).filter(m => m.provider === provider.id)
    if (waiting.length === 0) return
    this.billsAt.set(provider.id, clock.now() + BILLS_EVERY_MS)
    const bills = await provider.bills(waiting.flatMap(m => m.ref ?? []))
    if (this.stopped) return
    for (const { ref, amount, final } of bills) {
      const machine = waiting.find(m => m.ref === ref)
      if (machine && final) machines.setBilled(machine.id, amount)
    }
  }

  /** Ends what has taken too long, has been silent too long, or whose lease is over. */
  private async checkTimes(): Promise<void> {
    const { machines, clock, lastWord, needed = () => false } = this.options
    const now = clock.now()
    const ending: Promise<void>[] = []
    for (const machine of machines.out()) {
      const { id, state, provider } = machine
      const age = now - Math.max(machine.since, this.hereSince)
      if (TIMED_STAGES.includes(state) && age > this.stageTimes.timeoutMs(provider, state)) {
        this.change(id, 'tookTooLong', `still ${state} after ${minutes(this.stageTimes.timeoutMs(provider, state))}`)
      }
      if (['enrolled', 'ready', 'loading', 'draining'].includes(state)) {
        const drives = state === 'loading' || state === 'draining'
        const { heardAt, graceOverAt } = lastWord(id)
        // A machine that has only now come to this state was heard then.
        const silentMs = now - Math.max(heardAt, drives ? 0 : machine.since)
        if (drives ? now > graceOverAt : silentMs > LOST_AFTER_MS)
          this.change(
            id,
            'stoppedAnswering',
            `nothing heard for ${Math.round(silentMs / 1000)} s${drives ? ': by now its grace is over, and it loads nobody' : ''}`,
          )
      }
      const askedAt = machine.releaseAskedAt
      if (askedAt !== undefined && state !== 'releaseUnconfirmed' && now - askedAt > RELEASE_TIMEOUT_MS)
        this.change(id, 'releaseUnanswered', `not confirmed after ${RELEASE_TIMEOUT_MS / 1000} s`)
      const current = present(machines.machine(id), 'a machine that is out')
      const reason =
        askedAt !== undefined
          ? 'asked again'
          : now > machine.leaseEndsAt
            ? 'the lease is over'
            : // One that is lost may come back with what it holds, as long as its run goes on.
            GONE_WRONG.includes(current.state) && (current.state !== 'lost' || !needed(current))
              ? `it is ${current.state}`
              : undefined
      if (reason && now - (this.askedAgain.get(id) ?? Number.NEGATIVE_INFINITY) >= RELEASE_AGAIN_MS)
        ending.push(this.tryRelease(id, reason))
    }
    await Promise.all(ending)
  }

  private async tryRelease(machineId: string, reason: string): Promise<void> {
    try {
      await this.releaseMachine(machineId, reason)
    }
    catch {
      // The machine says that its release is not confirmed, and the next look tries again.
    }
  }

  /** Its run is over; it waits for another until its lease ends. */
  private async letGo(machine: Machine, until: number, reason: string): Promise<void> {
    const { machines, clock } = this.options
    machines.letGo(machine.id, clock.now())
    this.change(machine.id, 'letGo', reason)
    if (until !== machine.leaseEndsAt) await this.extend(machine.id, until, 'kept warm')
  }

  /** Machines that came by themselves are not ours to give back after a run: they wait. */
  private isOwn(machine: Machine): boolean {
    return this.options.providers.get(machine.provider)?.way === 'selfEnrolled'
  }

  /** All are told, also when one could not be. */
  private async all(acts: Promise<void>[]): Promise<void> {
    const failed = (await Promise.allSettled(acts)).find(r => r.status === 'rejected')
    if (failed) throw failed.reason
  }
}

/** How long the lease of a run's machine is, ms from being allocated: until the run is over, or its part of it. */
function leaseLength(document: RunDocument, order: FleetOrder): number {
  const { shift } = order
  const workMs = shift ? shift.toMs - (joinsLate(order) ? shift.fromMs : 0) : runLengthMs(document)
  return GATHERING_MS + workMs + LEASE_MARGIN_MS
}

function minutes(ms: number): string {
  return ms >= 60_000 ? `${Number((ms / 60_000).toFixed(1))} min` : `${Math.round(ms / 1000)} s`
}
