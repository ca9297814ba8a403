/**
 * Looks after machines: asks providers for them, follows what providers say of them, ends their leases, gives them back and waits for the
 * confirmation. Every change of a machine's state passes through {@link Fleet.change}.
 */
import { createHmac } from 'node:crypto'
import type { FleetOrder, Plan, RunDocument } from '../../core/plan/document'
import type { Clock } from '../clock'
import type { Machine, MachineStore } from '../store/machines'
import { hashOf } from './generator-hub'
import { afterEvent, IN_HAND, type MachineEvent, type MachineState } from './machine-life'
import { ProviderSilent, type Provider, type ProviderMachine } from './providers/contract'

/** How often providers are asked while a machine is out, and otherwise, ms. */
const WATCH_MS = 500
const IDLE_WATCH_MS = 5000
/** A machine that has not enrolled after this has failed, ms. */
const BOOT_TIMEOUT_MS = 240_000
/** A release not confirmed after this is said to be unconfirmed; it goes on being asked for, ms. */
const RELEASE_TIMEOUT_MS = 30_000
/** A generator out of touch for this long is lost, ms; at once when its provider says the machine has ended. */
const LOST_AFTER_MS = 20_000
/** Lease beyond the planned end of a run, ms. */
const LEASE_MARGIN_MS = 10 * 60_000

/** A machine a provider has that nobody here knows, or that should be gone. */
export interface Stray { provider: string, machine: ProviderMachine, since: number }

export interface FleetListener {
  onChange(machine: Machine, from: MachineState, reason: string): void
}

export interface FleetOptions {
  machines: MachineStore
  providers: ReadonlyMap<string, Provider>
  clock: Clock
  /** Address generators connect to. */
  controllerAddress: () => string
  /** Secret from which tokens are derived, so that an interrupted order can be repeated. */
  secret: string
  /** Prefix of all machine names, by which strays are recognised as ours. */
  installation: string
  /** Whether a machine's generator is connected now. */
  connected: (machineId: string) => boolean
  listener: FleetListener
}

export class Fleet {
  strays: Stray[] = []
  /** Since when a provider has been silent. */
  readonly silent = new Map<string, { since: number, sentence: string }>()
  /** Since when a generator under load has been out of touch. */
  private readonly outOfTouch = new Map<string, number>()
  private stopped = false
  private looking: Promise<void> | undefined

  constructor(private readonly options: FleetOptions) {
    this.watch()
  }

  /** Orders the machines of a run. Repeating it orders nothing twice. */
  async ask(runId: number, document: RunDocument, leaseEndsAt: number): Promise<void> {
    const { machines, clock } = this.options
    const known = new Set(machines.ofRun(runId).map(m => m.id))
    for (const order of document.fleet) for (const machine of machinesOf(runId, document.plan, order)) {
      if (known.has(machine.id)) continue
      machines.create({ ...machine, askedAt: clock.now(), leaseEndsAt })
      machines.addEnrolment(hashOf(this.tokenFor(machine.id)), machine.id, clock.now() + 2 * BOOT_TIMEOUT_MS)
    }
    await Promise.all(machines.ofRun(runId).filter(m => m.state === 'asked').map(m => this.create(m)))
    await this.look()
  }

  /** Gives back every machine of a run that is not gone. @throws ProviderSilent when one could not be told */
  async release(runId: number, reason: string): Promise<void> {
    await Promise.all(this.options.machines.ofRun(runId).filter(m => m.goneAt === undefined).map(m => this.releaseMachine(m.id, reason)))
    await this.look()
  }

  async releaseMachine(machineId: string, reason: string): Promise<void> {
    const { machines, providers, clock } = this.options
    const machine = machines.machine(machineId)
    if (!machine || machine.goneAt !== undefined) return
    this.change(machineId, 'releaseAsked', reason)
    if (machine.ref === undefined) {
      // Never reached the provider, or was refused: nothing to give back.
      machines.setGone(machineId, clock.now())
      this.change(machineId, 'goneConfirmed', 'was never allocated')
      return
    }
    await providers.get(machine.provider)!.release(machine.ref)
  }

  async releaseStray(provider: string, ref: string): Promise<void> {
    await this.options.providers.get(provider)?.release(ref)
    await this.look()
  }

  /** Applies an event to a machine; one that means nothing in its state is ignored. */
  change(machineId: string, event: MachineEvent, reason: string): boolean {
    const { machines, clock, listener } = this.options
    const machine = machines.machine(machineId)
    const to = machine && afterEvent(machine.state, event)
    if (!machine || !to) return false
    machines.change(machineId, { at: clock.now(), from: machine.state, to, event, reason })
    listener.onChange({ ...machine, state: to, since: clock.now() }, machine.state, reason)
    return true
  }

  /** Asks the providers once, now. Calls that overlap share one look. */
  look(): Promise<void> {
    return this.looking ??= this.reconcile().finally(() => { this.looking = undefined })
  }

  stop(): void {
    this.stopped = true
  }

  private watch(): void {
    if (this.stopped) return
    const out = this.options.machines.out().length > 0
    this.options.clock.after(out ? WATCH_MS : IDLE_WATCH_MS, () => {
      void this.look().then(() => this.watch())
    })
  }

  private async create(machine: Machine): Promise<void> {
    const { providers, machines, clock, controllerAddress } = this.options
    const provider = providers.get(machine.provider)
    if (!provider) return void this.refuse(machine.id, `there is no provider ${machine.provider}`)
    const answer = await provider.create({
      region: machine.region, type: machine.type, name: `${this.options.installation}-${machine.id}`, idempotencyKey: machine.idempotencyKey,
      environment: { VORNAK_CONTROLLER: controllerAddress(), VORNAK_TOKEN: this.tokenFor(machine.id) },
      endsAfterS: Math.ceil((machine.leaseEndsAt - clock.now()) / 1000),
    })
    if ('refusal' in answer) return void this.refuse(machine.id, answer.refusal.sentence)
    machines.setRef(machine.id, answer.ref, clock.now())
    this.change(machine.id, 'allocated', `${provider.name} gave ${answer.ref}`)
  }

  private refuse(machineId: string, sentence: string): void {
    this.options.machines.setGone(machineId, this.options.clock.now())
    this.change(machineId, 'refused', sentence)
  }

  private tokenFor(machineId: string): string {
    return createHmac('sha256', this.options.secret).update(machineId).digest('base64url')
  }

  private async reconcile(): Promise<void> {
    const strays: Stray[] = []
    for (const provider of this.options.providers.values()) {
      try {
        const listed = await provider.list()
        // The answer may come after the store is closed: the next process looks for itself.
        if (this.stopped) return
        this.compare(provider, listed, strays)
        this.silent.delete(provider.id)
      }
      catch (error) {
        if (!(error instanceof ProviderSilent)) throw error
        if (!this.silent.has(provider.id)) this.silent.set(provider.id, { since: this.options.clock.now(), sentence: error.message })
      }
    }
    if (!this.stopped) await this.checkTimes()
    this.strays = strays
  }

  /** Holds what a provider lists against what is known here. */
  private compare(provider: Provider, listed: ProviderMachine[], strays: Stray[]): void {
    const { machines, clock, installation } = this.options
    const byRef = new Map(listed.map(m => [m.ref, m]))
    const mine = machines.out().filter(m => m.provider === provider.id && m.ref !== undefined)
    for (const machine of mine) {
      const seen = byRef.get(machine.ref!)
      byRef.delete(machine.ref!)
      if (!seen || seen.state === 'gone') {
        machines.setGone(machine.id, clock.now())
        if (!this.change(machine.id, 'goneConfirmed', `${provider.name} confirms it is gone`)) this.change(machine.id, 'stoppedAnswering', `${provider.name} says the machine has ended`)
      }
      else if (seen.state === 'booting') this.change(machine.id, 'booting', `${provider.name}: booting`)
      else if (seen.state === 'running') this.change(machine.id, 'running', `${provider.name}: running`)
    }
    for (const machine of byRef.values()) {
      if (!machine.name.startsWith(`${installation}-`) || machine.state === 'gone' || machine.state === 'stopping') continue
      const id = machine.name.slice(installation.length + 1)
      const known = machines.machine(id)
      // Allocated a moment ago and not yet noted: not a stray.
      if (known && known.goneAt === undefined) continue
      strays.push({ provider: provider.id, machine, since: this.strays.find(s => s.machine.ref === machine.ref)?.since ?? clock.now() })
    }
  }

  /** Ends what has taken too long, has been silent too long, or whose lease is over. */
  private async checkTimes(): Promise<void> {
    const { machines, clock, connected } = this.options
    const now = clock.now()
    for (const machine of machines.out()) {
      const age = now - machine.since
      if (['allocated', 'booting', 'installing'].includes(machine.state) && now - machine.askedAt > BOOT_TIMEOUT_MS) {
        this.change(machine.id, 'tookTooLong', `not enrolled after ${BOOT_TIMEOUT_MS / 60_000} min`)
        await this.tryRelease(machine.id, 'it took too long')
      }
      if (['enrolled', 'ready', 'loading', 'draining'].includes(machine.state)) {
        if (connected(machine.id)) this.outOfTouch.delete(machine.id)
        else if (!this.outOfTouch.has(machine.id)) this.outOfTouch.set(machine.id, now)
        else if (now - this.outOfTouch.get(machine.id)! > LOST_AFTER_MS) this.change(machine.id, 'stoppedAnswering', `nothing heard for ${LOST_AFTER_MS / 1000} s`)
      }
      if (machine.state === 'releasing' && age > RELEASE_TIMEOUT_MS) this.change(machine.id, 'releaseUnanswered', `not confirmed after ${RELEASE_TIMEOUT_MS / 1000} s`)
      if (machine.state === 'releaseUnconfirmed' || (now > machine.leaseEndsAt && machine.state !== 'releasing')) await this.tryRelease(machine.id, machine.state === 'releaseUnconfirmed' ? 'asked again' : 'the lease is over')
    }
  }

  private async tryRelease(machineId: string, reason: string): Promise<void> {
    try { await this.releaseMachine(machineId, reason) }
    catch (error) {
      if (!(error instanceof ProviderSilent)) throw error
      // The next look tries again.
    }
  }
}

/** Machines that still count on for a run. */
export function inHand(machines: readonly Machine[]): Machine[] {
  return machines.filter(m => IN_HAND.includes(m.state))
}

/** When the leases of a run's machines end. */
export function leaseEnd(now: number, runLengthMs: number, keepMin: number): number {
  return now + BOOT_TIMEOUT_MS + runLengthMs + keepMin * 60_000 + LEASE_MARGIN_MS
}

function machinesOf(runId: number, plan: Plan, order: FleetOrder) {
  const location = plan.locations.find(l => l.code === order.location)!
  return Array.from({ length: order.machines }, (_, place) => {
    const name = `${order.location}-${place + 1}`
    const id = `r${runId}-${name.toLowerCase()}`
    return { id, runId, provider: location.provider, region: location.region, location: order.location, place, name, type: order.type.name, idempotencyKey: `${id}-1` }
  })
}
