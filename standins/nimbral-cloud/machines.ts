/** The cloud's machines: real processes with a delay before they run, a CPU share while they do, and an end of their own. */
import { spawn, type ChildProcess } from 'node:child_process'
import type { CloudSettings, MachineType } from './catalogue'
import { holdToShare, type Hold } from './cpu-share'

export type CloudState = 'pending' | 'booting' | 'running' | 'stopping' | 'gone'

export interface CloudMachine {
  id: string
  region: string
  type: string
  state: CloudState
  name: string
  createdAt: string
  /** When it stopped costing anything. */
  goneAt?: string
  /** Exit code of the program, once it ended by itself. */
  exitCode?: number | null
}

/** What is asked for. `environment` is given to the program that the machine starts. */
export interface CreateRequest {
  region: string
  type: string
  name: string
  environment: Record<string, string>
  /** The cloud itself ends the machine after this, whoever is watching, s. */
  endsAfterS: number
}

export class CloudError extends Error {
  constructor(readonly status: number, readonly code: string, message: string) { super(message) }
}

/** Time from creation to boot, ms. */
const PENDING_MS = 300

export class Machines {
  private readonly machines = new Map<string, CloudMachine & { process?: ChildProcess, hold?: Hold, timers: NodeJS.Timeout[] }>()
  private readonly byKey = new Map<string, string>()
  private count = 0

  /** @param program what every machine runs: file of the generator */
  constructor(private readonly settings: CloudSettings, private readonly program: string) {}

  create(request: CreateRequest, idempotencyKey: string | undefined): CloudMachine {
    const again = idempotencyKey === undefined ? undefined : this.byKey.get(idempotencyKey)
    if (again) return this.get(again)
    const region = this.settings.regions.find(r => r.name === request.region)
    if (!region) throw new CloudError(404, 'no-such-region', `There is no region “${request.region}”.`)
    const type = this.settings.types.find(t => t.name === request.type)
    if (!type) throw new CloudError(404, 'no-such-type', `There is no machine type “${request.type}”.`)
    if (this.settings.noStock.includes(region.name)) throw new CloudError(409, 'no-stock', `${region.name} has no ${type.name} left at the moment.`)
    if (this.used(region.name) >= region.quota) throw new CloudError(409, 'quota', `The quota of ${region.name} is ${region.quota} machines, all in use.`)
    const machine: CloudMachine & { timers: NodeJS.Timeout[] } = { id: `nim-${(++this.count).toString().padStart(4, '0')}-${Math.random().toString(36).slice(2, 6)}`, region: region.name, type: type.name, name: request.name, state: 'pending', createdAt: new Date().toISOString(), timers: [] }
    this.machines.set(machine.id, machine)
    if (idempotencyKey !== undefined) this.byKey.set(idempotencyKey, machine.id)
    machine.timers.push(
      setTimeout(() => { machine.state = 'booting' }, PENDING_MS),
      setTimeout(() => this.boot(machine.id, type, request.environment), region.bootS * 1000),
      setTimeout(() => this.end(machine.id), request.endsAfterS * 1000),
    )
    return view(machine)
  }

  list(): CloudMachine[] {
    return [...this.machines.values()].map(view)
  }

  get(id: string): CloudMachine {
    const machine = this.machines.get(id)
    if (!machine) throw new CloudError(404, 'no-such-machine', `There is no machine ${id}.`)
    return view(machine)
  }

  used(region: string): number {
    return [...this.machines.values()].filter(m => m.region === region && m.state !== 'gone').length
  }

  /** Ends a machine; one that is gone already stays so. */
  end(id: string): CloudMachine {
    const machine = this.machines.get(id)
    if (!machine) throw new CloudError(404, 'no-such-machine', `There is no machine ${id}.`)
    if (machine.state === 'stopping' || machine.state === 'gone') return view(machine)
    machine.state = 'stopping'
    for (const timer of machine.timers) clearTimeout(timer)
    if (machine.process && machine.process.exitCode === null && machine.process.signalCode === null) {
      machine.process.kill('SIGCONT')
      machine.process.kill('SIGTERM')
      const child = machine.process
      setTimeout(() => { if (child.exitCode === null) child.kill('SIGKILL') }, 3000).unref()
    }
    else this.gone(machine.id)
    return view(machine)
  }

  async endAll(): Promise<void> {
    const waits = [...this.machines.values()].map(m => m.process && m.process.exitCode === null && m.process.signalCode === null ? new Promise(r => m.process!.once('exit', r)) : undefined)
    for (const id of this.machines.keys()) this.end(id)
    await Promise.all(waits)
  }

  private boot(id: string, type: MachineType, environment: Record<string, string>): void {
    const machine = this.machines.get(id)!
    if (machine.state !== 'booting' && machine.state !== 'pending') return
    const cores = type.vcpu * this.settings.coresPerVcpu
    const child = spawn(process.execPath, [this.program], {
      env: { PATH: process.env.PATH, ...environment, VORNAK_MACHINE: machine.name, VORNAK_CORES: String(cores), VORNAK_MEMORY_MB: String(type.memoryMb) },
      stdio: ['ignore', 'ignore', 'pipe'],
    })
    machine.process = child
    machine.state = 'running'
    if (child.pid !== undefined) machine.hold = holdToShare(child.pid, id, cores)
    child.stderr.on('data', (text: Buffer) => process.stderr.write(`[${machine.name}] ${text}`))
    child.on('error', error => process.stderr.write(`[${machine.name}] ${error.message}\n`))
    child.on('exit', (code) => {
      machine.exitCode = code
      machine.hold?.end()
      this.gone(id)
    })
  }

  private gone(id: string): void {
    const machine = this.machines.get(id)!
    for (const timer of machine.timers) clearTimeout(timer)
    machine.state = 'gone'
    machine.goneAt = new Date().toISOString()
    // Providers go on listing a machine for a while after it is gone.
    setTimeout(() => this.machines.delete(id), this.settings.lingerS * 1000).unref()
  }
}

function view({ id, region, type, state, name, createdAt, goneAt, exitCode }: CloudMachine): CloudMachine {
  return { id, region, type, state, name, createdAt, ...(goneAt ? { goneAt } : {}), ...(exitCode === undefined ? {} : { exitCode }) }
}
