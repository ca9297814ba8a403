/** Machines: ways to them, links with their generators, their life, what they cost. */
import { readFileSync } from 'node:fs'
import { Hosts } from '../hosts/hosts'
import { PRIVATE_ID, PrivateServers } from '../hosts/private-servers'
import { bundleOf, type Bundle } from '../link/door'
import { DoorKey, type DoorCertificate } from '../link/door-key'
import { GeneratorHub } from '../link/generator-hub'
import { RollCaller } from '../link/roll-caller'
import { Fleet } from '../machines/fleet'
import { Invitations } from '../machines/invitations'
import { Money } from '../machines/money'
import type { Provider } from '../machines/providers/contract'
import { selfEnrolled } from '../machines/providers/self-enrolled'
import type { StageBounds } from '../machines/stage-times'
import { Ways } from '../machines/ways'
import type { ActiveRuns } from '../run/active-run'
import type { Foundations } from './foundations'

export interface FleetPartsOptions {
  /** Ways to machines beside accounts, private servers and machines that come by themselves. */
  providers: readonly Provider[]
  /** An account that is there from the first start. */
  firstAccount?: { id: string, name: string, address: string, key: string }
  stageBounds?: StageBounds
  /** Where generators come in: `https://host:port`. */
  doorAddress: () => string
  /** What is shown there, where it is not made here. */
  doorCertificate?: DoorCertificate
  programs: { generator: string }
  /** Spending that is agreed for a day, €. */
  dailyBudget: number
}

export type FleetParts = ReturnType<typeof fleetParts>

/** Guard rails of an installation that nobody has set any for; money: the budget of a day. */
const USUAL_RAILS = { mostMachines: 100, mostUsers: 50_000, longestRunMin: 240, currency: 'EUR' }

/** @param active runs that are led, each of which needs its machines */
export function fleetParts(ground: Foundations, options: FleetPartsOptions, active: ActiveRuns) {
  const { clock, news, tables, sealing, installation } = ground
  const { machines } = tables
  const { dailyBudget } = options
  const money = new Money(machines, tables.facts, {
    ...USUAL_RAILS,
    budgetPerRun: dailyBudget,
    budgetPerDay: dailyBudget,
  })
  const hub = new GeneratorHub(machines, clock, ground.epoch)
  const connected = (machineId: string) => hub.connections.has(machineId)
  const generatorBundle = onceRead(options.programs.generator)
  const doorKey = new DoorKey({ facts: tables.facts, sealing, clock }, options.doorCertificate)
  const door = { address: options.doorAddress, pin: doorKey.pin, program: generatorBundle }
  const hosts = new Hosts(tables.hosts, sealing, clock, () => news.fleetChanged())
  const ways = waysWith(ground, options)
  ways.set(PRIVATE_ID, privateServers(ground, hub, hosts, generatorBundle))
  const self = selfEnrolled({ machines, invitations: tables.invitations, connected, installation, clock })
  ways.set(self.id, self)
  const fleet = new Fleet({
    machines,
    providers: ways,
    clock,
    door,
    secret: ground.secret,
    installation,
    formerInstallations: ground.formerInstallations,
    connected,
    lastWord: id => ({ heardAt: hub.heardAt(id), graceOverAt: hub.graceOverAt(id) }),
    dismiss: (machineId, reason) => hub.connections.get(machineId)?.say({ kind: 'release', reason }),
    mayTake: (machine, now) => money.mayTake(machine, now),
    needed: machine => machine.runId !== undefined && active.has(machine.runId),
    ...(options.stageBounds ? { bounds: options.stageBounds } : {}),
  })
  return {
    money,
    hub,
    doorKey,
    hosts,
    ways,
    fleet,
    generatorBundle,
    rollCaller: new RollCaller(machines, hub, tables.rollCalls, clock, () => news.fleetChanged()),
    invitations: new Invitations({
      invitations: tables.invitations,
      machines,
      clock,
      door,
    }),
    close() {
      fleet.stop()
      ways.stop()
      hub.stop()
    },
  }
}

function waysWith({ tables, sealing, clock }: Foundations, { providers, firstAccount }: FleetPartsOptions): Ways {
  if (firstAccount && !sealing.trouble && !tables.accounts.all().some(a => a.account.id === firstAccount.id)) {
    const { key, ...account } = firstAccount
    tables.accounts.save({ ...account, ownEnd: 'natively' }, sealing.seal(key, `account/${account.id}`))
  }
  return new Ways(providers, tables.accounts, sealing, clock)
}

function privateServers(
  { clock, tables: { machines }, installation, formerInstallations }: Foundations,
  hub: GeneratorHub,
  hosts: Hosts,
  bundle: () => Bundle,
): PrivateServers {
  return new PrivateServers({
    clock,
    installation,
    formerInstallations,
    keys: hosts.keyRoom,
    sites: () => hosts.sites(),
    lastTry: ref => hosts.lastTry(ref),
    accept: (wire, from) => hub.accept(wire, from),
    taken: () =>
      new Set(machines.out().flatMap(m => (m.provider === PRIVATE_ID && m.ref !== undefined ? [m.ref] : []))),
    bundle,
    onLog: (name, log) => {
      const id = name.slice(installation.length + 1)
      if (machines.machine(id)) machines.saveLog(id, log, clock.now())
    },
  })
}

/** The generator program, read when it is first asked for. */
function onceRead(file: string): () => Bundle {
  let bundle: Bundle | undefined
  return () => (bundle ??= bundleOf(readFileSync(file)))
}
