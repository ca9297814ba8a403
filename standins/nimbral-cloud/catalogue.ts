/** What the invented cloud rents: regions, machine types, prices, quotas, what it wants attached, how it behaves. */

export interface MachineType {
  name: string
  vcpu: number
  memoryMb: number
  /** Per hour, in the cloud's currency. */
  pricePerHour: number
  /** The same for a machine it may take back. */
  interruptiblePerHour?: number
  /** Time is billed in steps of this many seconds. */
  billingGrainS: number
  /** Less is billed as this, s. */
  minimumS?: number
}

/** A bill beside the machine's: by the hour (for each unit of an attached value, or once), or by what goes out. */
export interface OtherBill {
  name: string
  per: 'hour' | 'GB out'
  price: number
  each?: string
}

export interface CloudSettings {
  /** `stock`: machines of a type there are, at most; left out: plenty. */
  regions: { name: string, quota: number, bootS: number, stock?: Record<string, number> }[]
  types: MachineType[]
  currency: string
  pricesAsOf: string
  otherBills: OtherBill[]
  /** What it wants attached to a machine: JSON Schema 2020-12. */
  attachments: object
  /** Keys of its accounts; empty: it asks for none. */
  keys: string[]
  /** Calls it takes: how many a second, and how many at once after a pause. More are answered 429. */
  rateLimit: { perSecond: number, atOnce: number }
  /**
   * Cores of this computer that one vCPU stands for. Small, so that several machines fit on two cores and a small one
   * truly saturates.
   */
  coresPerVcpu: number
  /** Regions that have nothing left, for trying out what happens then. */
  noStock: string[]
  /** A machine stays in the list this long after it is gone, s. Listed is not billed. */
  lingerS: number
  /** Warning before an interruptible machine is taken back, s. */
  noticeS: number
  /**
   * Program that plays all machines in one process, given orders as lines of JSON; left out: each is a process of the
   * generator.
   */
  simulator?: string
}

export const DEFAULT_CLOUD: CloudSettings = {
  regions: [
    { name: 'reyk', quota: 5, bootS: 2 },
    { name: 'tavira', quota: 4, bootS: 3 },
    { name: 'osaki', quota: 3, bootS: 4 },
  ],
  types: [
    { name: 'brisk-1', vcpu: 1, memoryMb: 2048, pricePerHour: 0.06, interruptiblePerHour: 0.021, billingGrainS: 60 },
    { name: 'brisk-2', vcpu: 2, memoryMb: 4096, pricePerHour: 0.11, interruptiblePerHour: 0.039, billingGrainS: 60 },
    { name: 'brisk-4', vcpu: 4, memoryMb: 8192, pricePerHour: 0.21, interruptiblePerHour: 0.074, billingGrainS: 60 },
    { name: 'broad-2', vcpu: 2, memoryMb: 16384, pricePerHour: 0.16, billingGrainS: 60, minimumS: 600 },
    { name: 'broad-4', vcpu: 4, memoryMb: 32768, pricePerHour: 0.31, billingGrainS: 60, minimumS: 600 },
  ],
  currency: 'EUR',
  pricesAsOf: '2026-11-01',
  otherBills: [
    { name: 'disk', per: 'hour', price: 0.00012, each: 'diskGb' },
    { name: 'public address', per: 'hour', price: 0.004, each: 'publicAddress' },
    { name: 'egress', per: 'GB out', price: 0.04 },
  ],
  attachments: {
    $schema: 'https://json-schema.org/draft/2020-12/schema',
    type: 'object',
    additionalProperties: false,
    properties: {
      network: {
        type: 'string',
        title: 'Network',
        enum: ['open', 'campus-peered'],
        default: 'open',
        description: 'campus-peered reaches private addresses of peered sites',
      },
      image: { type: 'string', title: 'Image', enum: ['plain-node20', 'hardened-node20'], default: 'plain-node20' },
      diskGb: { type: 'integer', title: 'Disk, GB', minimum: 8, maximum: 256, default: 10 },
      publicAddress: { type: 'boolean', title: 'Public address of its own', default: true },
    },
  },
  keys: [],
  rateLimit: { perSecond: 20, atOnce: 40 },
  coresPerVcpu: 0.5,
  noStock: [],
  lingerS: 5,
  noticeS: 20,
}
