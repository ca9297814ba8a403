/**
 * CPU that neighbours of a virtual computer take from it: proc(5), /proc/stat: user, nice, system, idle, iowait, irq,
 * softirq, steal.
 */
import { readFileSync } from 'node:fs'

/** More than this share of the CPU taken while a test ran, and its times prove nothing. */
export const MOST_STOLEN = 0.01

export interface CpuTicks {
  stolen: number
  all: number
}

export function cpuTicks(): CpuTicks {
  const ticks = /^cpu +(.*)$/m.exec(readFileSync('/proc/stat', 'utf8'))![1]!.split(' ').slice(0, 8).map(Number)
  return { stolen: ticks[7]!, all: ticks.reduce((sum, n) => sum + n, 0) }
}

/** Share of the CPU that was stolen since then. */
export function stolenSince(before: CpuTicks): number {
  const now = cpuTicks()
  return (now.stolen - before.stolen) / Math.max(1, now.all - before.all)
}

export function saidOf(stolen: number): string {
  return `${(stolen * 100).toFixed(1)} % of the CPU was stolen meanwhile`
}
