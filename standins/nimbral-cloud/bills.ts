/**
 * The cloud's own bills: time in whole grains with a minimum, what is attached, what went out. Vornak's reckoning is
 * held against them.
 */
import type { CloudSettings, MachineType } from './catalogue'

/** What is billed of one machine. Moments in ms. */
export interface Used {
  type: MachineType
  interruptible: boolean
  attached: Record<string, unknown>
  from: number
  /** When it halted, was taken back or ended: its own time stops. */
  ranUntil: number
  /** When nothing attached was left. */
  until: number
  bytesOut: number
}

export interface Bill {
  machine: string
  amount: number
  currency: string
  final: boolean
  parts: { name: string, amount: number }[]
}

export function billOf(
  machine: string,
  used: Used,
  final: boolean,
  { otherBills, currency }: Pick<CloudSettings, 'otherBills' | 'currency'>,
): Bill {
  const { type, attached } = used
  const hours = (ms: number) =>
    Math.max(Math.ceil(Math.max(ms, 1) / 1000 / type.billingGrainS) * type.billingGrainS, type.minimumS ?? 0) / 3600
  const price = used.interruptible ? (type.interruptiblePerHour ?? type.pricePerHour) : type.pricePerHour
  const parts = [
    { name: type.name, amount: hours(used.ranUntil - used.from) * price },
    ...otherBills.map(({ name, per, price: each, each: of }) => {
      if (per === 'GB out') return { name, amount: (used.bytesOut / 1e9) * each }
      const value = of === undefined ? 1 : attached[of]
      return {
        name,
        amount: hours(used.until - used.from) * each * (typeof value === 'number' ? value : value ? 1 : 0),
      }
    }),
  ]
  return { machine, amount: parts.reduce((sum, p) => sum + p.amount, 0), currency, final, parts }
}
