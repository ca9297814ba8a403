/** How many machines a plan needs, by assumed capacity: users per vCPU. A calibration will replace the assumption. */
import type { MachineType, Plan } from '../plan/document'
import { usersPerCell } from '../plan/slice'

/** Users a machine of this type is assumed to carry. */
export function assumedCapacity(plan: Plan, type: MachineType): number {
  return plan.assumedUsersPerVcpu * type.vcpu
}

/** Users at a location when every group is at its peak. */
export function usersAt(plan: Plan, code: string): number {
  const index = plan.locations.findIndex(l => l.code === code)
  return usersPerCell({ plan }).reduce((sum, cells) => sum + (cells[index] ?? 0), 0)
}

/** Machines of this type a location needs for its users; 0 when nobody is placed there. */
export function machinesNeeded(plan: Plan, code: string, type: MachineType): number {
  return Math.ceil(usersAt(plan, code) / assumedCapacity(plan, type))
}
