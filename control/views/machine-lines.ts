/** Machines as lines: what they are, have been and cost. */
import type { MachineLine } from '../../api/views'
import { costOf } from '../../core/fleet/size'
import type { RunDocument } from '../../core/plan/document'
import type { Machine, MachineChange } from '../store/machines'

export function machineLine(machine: Machine, document: RunDocument | undefined, changes: readonly MachineChange[], now: number): MachineLine {
  const type = document?.fleet.find(o => o.location === machine.location)?.type
  return {
    id: machine.id, runId: machine.runId, name: machine.name, location: machine.location, provider: machine.provider, region: machine.region, type: machine.type, state: machine.state,
    askedAt: machine.askedAt, allocatedAt: machine.allocatedAt, goneAt: machine.goneAt, leaseEndsAt: machine.leaseEndsAt,
    perHour: type?.pricePerHour ?? 0,
    cost: type && machine.allocatedAt !== undefined ? costOf(type, (machine.goneAt ?? now) - machine.allocatedAt) : 0,
    changes: changes.map(c => ({ at: c.at, to: c.to, reason: c.reason })),
    facts: machine.facts && { hostname: machine.facts.hostname, cores: machine.facts.cores, memoryBytes: machine.facts.memoryBytes, node: machine.facts.node },
    clockMs: machine.clockMs,
  }
}
