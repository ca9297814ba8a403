/** What the invented cloud rents: regions, machine types, prices, quotas. */

export interface MachineType {
  name: string
  vcpu: number
  memoryMb: number
  /** € per hour. */
  pricePerHour: number
  /** Time is billed in steps of this many seconds. */
  billingGrainS: number
}

export interface CloudSettings {
  regions: { name: string, quota: number, bootS: number }[]
  types: MachineType[]
  /**
   * Cores of this computer that one vCPU stands for. Small, so that several machines fit on two cores and a small one truly saturates.
   */
  coresPerVcpu: number
  /** Requests to create a machine that are refused with “no stock”, per region, for trying out what happens then. */
  noStock: string[]
  /** A machine stays in the list this long after it is gone, s. Listed is not billed. */
  lingerS: number
}

export const DEFAULT_CLOUD: CloudSettings = {
  regions: [
    { name: 'reyk', quota: 5, bootS: 2 },
    { name: 'tavira', quota: 4, bootS: 3 },
    { name: 'osaki', quota: 3, bootS: 4 },
  ],
  types: [
    { name: 'brisk-1', vcpu: 1, memoryMb: 2048, pricePerHour: 0.06, billingGrainS: 60 },
    { name: 'brisk-2', vcpu: 2, memoryMb: 4096, pricePerHour: 0.11, billingGrainS: 60 },
    { name: 'brisk-4', vcpu: 4, memoryMb: 8192, pricePerHour: 0.21, billingGrainS: 60 },
    { name: 'broad-2', vcpu: 2, memoryMb: 16384, pricePerHour: 0.16, billingGrainS: 60 },
    { name: 'broad-4', vcpu: 4, memoryMb: 32768, pricePerHour: 0.31, billingGrainS: 60 },
  ],
  coresPerVcpu: 0.5,
  noStock: [],
  lingerS: 5,
}
