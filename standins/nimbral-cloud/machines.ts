/**
 * The cloud's machines: programs with a delay before they run and an end of their own, disks and addresses beside them,
 * a bill for each.
 */
import { billOf, type Bill, type Used } from './bills'
import type { CloudSettings, MachineType } from './catalogue'
import type { FaultBook } from './faults'
import type { Programs, Running } from './programs'

export type CloudState = 'pending' | 'booting' | 'running' | 'stopped' | 'failed' | 'stopping' | 'gone'

export interface CloudMachine {
  id: string
  region: string
  type: string
  state: CloudState
  name: string
  interruptible: boolean
  attached: Record<string, unknown>
  createdAt: string
  endsAt: string
  /** It will be taken back then. */
  reclaimAt?: string
  /** When it stopped costing anything. */
  goneAt?: string
  /** Exit code of the program, once it ended by itself. */
  exitCode?: number | null
  message?: string
}

/** A disk or an address, named as its machine. */
export interface CloudAttached {
  id: string
  kind: 'disk' | 'address'
  name: string
  region: string
  type: string
  state: 'running' | 'gone'
}

/** What is asked for. `environment` is given to the program that the machine starts. */
export interface CreateRequest {
  region: string
  type: string
  name: string
  environment: Record<string, string>
  /** The cloud itself ends the machine after this, watched or not, s. */
  endsAfterS: number
  interruptible: boolean
  attached: Record<string, unknown>
}

export class CloudError extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
  ) {
    super(message)
  }
}

/** Time from creation to boot, ms. */
const PENDING_MS = 300
/** What went out is read this often, ms. */
const METER_MS = 1000

interface Kept extends CloudMachine {
  of: MachineType
  running?: Running
  bootTimers: NodeJS.Timeout[]
  endTimer?: NodeJS.Timeout
  used: Used
  disks: CloudAttached[]
}

export class Machines {
  private readonly machines = new Map<string, Kept>()
  private readonly byKey = new Map<string, string>()
  private readonly attached = new Map<string, CloudAttached>()
  private readonly bills = new Map<string, Bill>()
  private count = 0
  private readonly meter: NodeJS.Timeout

  constructor(
    private readonly settings: CloudSettings,
    private readonly programs: Programs,
    private readonly faults: FaultBook,
  ) {
    this.meter = setInterval(() => {
      for (const m of this.machines.values())
        if (m.running) m.used.bytesOut = Math.max(m.used.bytesOut, m.running.bytesOut())
    }, METER_MS)
    this.meter.unref()
  }

  create(request: CreateRequest, idempotencyKey: string | undefined): CloudMachine {
    const again = idempotencyKey === undefined ? undefined : this.byKey.get(idempotencyKey)
    if (again && this.machines.has(again)) return this.get(again)
    const { settings, faults } = this
    const region = settings.regions.find(r => r.name === request.region)
    if (!region) throw new CloudError(404, 'no-such-region', `There is no region “${request.region}”.`)
    const type = settings.types.find(t => t.name === request.type)
    if (!type) throw new CloudError(404, 'no-such-type', `There is no machine type “${request.type}”.`)
    if (request.interruptible && type.interruptiblePerHour === undefined)
      throw new CloudError(400, 'not-interruptible', `${type.name} is not rented at an interruptible price.`)
    if (this.outOfStock(region.name).includes(type.name))
      throw new CloudError(409, 'no-stock', `${region.name} has no ${type.name} left at the moment.`)
    if (this.used(region.name) >= region.quota)
      throw new CloudError(409, 'quota', `The quota of ${region.name} is ${region.quota} machines, all in use.`)
    const now = Date.now()
    const id = `nim-${(++this.count).toString().padStart(4, '0')}-${Math.random().toString(36).slice(2, 6)}`
    const common = { name: request.name, region: region.name, type: type.name, state: 'running' as const }
    const machine: Kept = {
      id,
      region: region.name,
      type: type.name,
      of: type,
      name: request.name,
      state: 'pending',
      interruptible: request.interruptible,
      attached: request.attached,
      createdAt: new Date(now).toISOString(),
      endsAt: new Date(now + request.endsAfterS * 1000).toISOString(),
      bootTimers: [],
      used: {
        type,
        interruptible: request.interruptible,
        attached: request.attached,
        from: now,
        ranUntil: 0,
        until: 0,
        bytesOut: 0,
      },
      disks: [
        { id: `disk-${id}`, kind: 'disk', ...common },
        ...(request.attached.publicAddress ? [{ id: `addr-${id}`, kind: 'address' as const, ...common }] : []),
      ],
    }
    this.machines.set(id, machine)
    for (const d of machine.disks) this.attached.set(d.id, d)
    if (idempotencyKey !== undefined) this.byKey.set(idempotencyKey, id)
    const broken = faults.strikes('brokenBoots')
    const endless = !broken && faults.strikes('endlessBoots')
    // A boot may be quicker than this: what runs by then does not boot again.
    machine.bootTimers.push(
      setTimeout(() => {
        if (machine.state === 'pending') machine.state = 'booting'
      }, PENDING_MS),
    )
    if (!endless)
      machine.bootTimers.push(
        setTimeout(
          () => (broken ? this.breakDown(machine) : this.boot(machine, request.environment)),
          (region.bootS + faults.faults.slowBootS) * 1000,
        ),
      )
    this.endAfter(machine, request.endsAfterS)
    return view(machine)
  }

  list(): CloudMachine[] {
    return [...this.machines.values()].map(view)
  }

  listAttached(): CloudAttached[] {
    return [...this.attached.values()]
  }

  get(id: string): CloudMachine {
    return view(this.found(id))
  }

  used(region: string): number {
    return [...this.machines.values()].filter(m => m.region === region && m.state !== 'gone').length
  }

  outOfStock(region: string): string[] {
    if (this.settings.noStock.includes(region)) return this.settings.types.map(t => t.name)
    const stock = this.settings.regions.find(r => r.name === region)?.stock ?? {}
    return Object.entries(stock)
      .filter(
        ([type, most]) =>
          [...this.machines.values()].filter(m => m.region === region && m.type === type && m.state !== 'gone')
            .length >= most,
      )
      .map(([type]) => type)
  }

  /** Moves the end the cloud itself sees to. */
  extend(id: string, endsAfterS: number): CloudMachine {
    const machine = this.found(id)
    if (machine.state === 'stopping' || machine.state === 'gone') throw new CloudError(409, 'ended', `${id} has ended.`)
    this.endAfter(machine, endsAfterS)
    return view(machine)
  }

  /** Ends a machine; one that is gone already stays so. */
  end(id: string): CloudMachine {
    const machine = this.found(id)
    if (machine.state === 'stopping' || machine.state === 'gone') return view(machine)
    if (this.faults.strikes('deafReleases')) return view(machine)
    if (this.faults.strikes('forgottenDisks')) machine.disks = machine.disks.filter(d => d.kind !== 'disk')
    for (const timer of machine.bootTimers) clearTimeout(timer)
    clearTimeout(machine.endTimer)
    machine.state = 'stopping'
    if (machine.running) machine.running.end()
    else this.gone(machine)
    return view(machine)
  }

  /** Gives back a disk or an address. */
  endAttached(id: string): CloudAttached {
    const found = this.attached.get(id)
    if (!found) throw new CloudError(404, 'no-such-thing', `There is no ${id}.`)
    found.state = 'gone'
    setTimeout(() => this.attached.delete(id), this.settings.lingerS * 1000).unref()
    return found
  }

  /**
   * Takes interruptible machines back after the notice. @param ids these, or this many of those there are, from the
   * first
   */
  reclaim(ids: string[] | number): CloudMachine[] {
    const mine = [...this.machines.values()].filter(
      m => m.interruptible && m.reclaimAt === undefined && ['pending', 'booting', 'running'].includes(m.state),
    )
    const taken = Array.isArray(ids) ? mine.filter(m => ids.includes(m.id)) : mine.slice(0, ids)
    for (const machine of taken) {
      machine.reclaimAt = new Date(Date.now() + this.settings.noticeS * 1000).toISOString()
      machine.bootTimers.push(setTimeout(() => this.end(machine.id), this.settings.noticeS * 1000))
    }
    return taken.map(view)
  }

  /** Bills as they stand. */
  billsOf(ids: readonly string[]): Bill[] {
    return ids.flatMap((id) => {
      const machine = this.machines.get(id)
      if (machine && machine.state !== 'gone')
        return [
          billOf(
            id,
            { ...machine.used, ranUntil: machine.used.ranUntil || Date.now(), until: Date.now() },
            false,
            this.settings,
          ),
        ]
      const final = this.bills.get(id)
      return final ? [final] : []
    })
  }

  async endAll(): Promise<void> {
    clearInterval(this.meter)
    this.faults.set({ deafReleases: 0 })
    for (const id of this.machines.keys()) this.end(id)
    while ([...this.machines.values()].some(m => m.state !== 'gone')) await new Promise(r => setTimeout(r, 50))
    this.programs.stop()
  }

  private boot(machine: Kept, environment: Record<string, string>): void {
    if (machine.state !== 'booting' && machine.state !== 'pending') return
    machine.state = 'running'
    if (this.faults.strikes('neverEnrol')) return
    machine.running = this.programs.start(
      {
        id: machine.id,
        name: machine.name,
        environment,
        cores: machine.of.vcpu * this.settings.coresPerVcpu,
        memoryMb: machine.of.memoryMb,
        clockOffS: this.faults.faults.clockOffS,
      },
      (code) => {
        delete machine.running
        machine.exitCode = code
        if (machine.state === 'stopping') return this.gone(machine)
        // The program has powered its machine off, or fallen over: its own time stops, what is attached is billed on.
        machine.state = 'stopped'
        machine.message = `it has halted: its program ended with ${code ?? 'a signal'}`
        machine.used.ranUntil = Date.now()
      },
    )
  }

  private breakDown(machine: Kept): void {
    machine.state = 'failed'
    machine.message = 'it came up broken: its disk could not be mounted'
  }

  private endAfter(machine: Kept, seconds: number): void {
    clearTimeout(machine.endTimer)
    machine.endsAt = new Date(Date.now() + seconds * 1000).toISOString()
    machine.endTimer = setTimeout(() => this.end(machine.id), Math.min(seconds * 1000, 2_147_483_647))
    machine.endTimer.unref()
  }

  private gone(machine: Kept): void {
    const now = Date.now()
    machine.state = 'gone'
    machine.goneAt = new Date(now).toISOString()
    machine.used.ranUntil ||= now
    machine.used.until = now
    this.bills.set(machine.id, billOf(machine.id, machine.used, true, this.settings))
    for (const d of machine.disks) this.endAttached(d.id)
    // Providers go on listing a machine for a while after it is gone.
    setTimeout(() => this.machines.delete(machine.id), this.settings.lingerS * 1000).unref()
  }

  private found(id: string): Kept {
    const machine = this.machines.get(id)
    if (!machine) throw new CloudError(404, 'no-such-machine', `There is no machine ${id}.`)
    return machine
  }
}

function view({
  id,
  region,
  type,
  state,
  name,
  interruptible,
  attached,
  createdAt,
  endsAt,
  reclaimAt,
  goneAt,
  exitCode,
  message,
}: Kept): CloudMachine {
  return {
    id,
    region,
    type,
    state,
    name,
    interruptible,
    attached,
    createdAt,
    endsAt,
    ...(reclaimAt ? { reclaimAt } : {}),
    ...(goneAt ? { goneAt } : {}),
    ...(exitCode === undefined ? {} : { exitCode }),
    ...(message ? { message } : {}),
  }
}
