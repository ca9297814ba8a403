/** Machines as lines: what they are, have been and cost. */
import { FOR_PEAK } from './orders'
import type { MachineLine } from '../../api/views'
import type { Money } from './money'
import type { Machine, MachineChange, MachineStay } from '../store/machines'

/** @param stay its time with the run that is looked at; left out: the machine as it is now */
export function machineLine(
  machine: Machine,
  changes: readonly MachineChange[],
  now: number,
  money: Money,
  stay?: MachineStay,
): MachineLine {
  const { price, facts } = machine
  const { nextAt } = stay ?? {}
  const shown = nextAt !== undefined ? changes.filter(c => c.at < nextAt) : changes
  return {
    id: machine.id,
    runId: stay?.runId ?? machine.runId,
    name: machine.name,
    location: machine.location,
    provider: machine.provider,
    region: machine.region,
    type: machine.type,
    // A machine that has worked for another run since was well to the end of this one.
    state: stay?.nextAt !== undefined ? (shown.at(-1)?.to ?? machine.state) : machine.state,
    askedAt: machine.askedAt,
    allocatedAt: machine.allocatedAt,
    goneAt: machine.goneAt,
    leaseEndsAt: machine.leaseEndsAt,
    perHour: price.perHour + price.extrasPerHour,
    interruptible: price.interruptible,
    cost: stay ? money.costOfStay(machine, stay, now) : money.costSoFar(machine, now),
    changes: shown.map(c => ({ at: c.at, to: c.to, event: c.event, reason: c.reason })),
    facts: facts && { hostname: facts.hostname, cores: facts.cores, memoryBytes: facts.memoryBytes, node: facts.node },
    clockMs: machine.clockMs,
    ...(machine.waits
      ? {
          waits: {
            sentence: machine.waits.sentence,
            since: machine.waits.since,
            ...(machine.waits.code === FOR_PEAK ? { orderedAt: machine.waits.nextAt } : {}),
          },
        }
      : {}),
    ...(machine.reclaimAt === undefined ? {} : { reclaimAt: machine.reclaimAt }),
    ...(machine.attempt > 1 ? { again: true } : {}),
    ...(machine.billed === undefined ? {} : { billed: machine.billed }),
  }
}
