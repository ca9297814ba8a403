/** What this machine grants: cores, memory, descriptors. A container's limits count, not the hardware's. */
import { readFileSync } from 'node:fs'
import os from 'node:os'
import type { HostFacts } from '../../protocol/messages'

/** IANA's dynamic range (RFC 6335): where the system does not tell its own. */
const DYNAMIC_PORTS = 16_384

export function hostFacts(env: NodeJS.ProcessEnv = process.env): HostFacts {
  return {
    hostname: env.VORNAK_MACHINE ?? os.hostname(),
    platform: `${os.platform()} ${os.arch()}`,
    node: process.version,
    cores: positive(env.VORNAK_CORES) ?? cgroupCores() ?? os.availableParallelism(),
    memoryBytes: (positive(env.VORNAK_MEMORY_MB) ?? 0) * 1024 * 1024 || os.totalmem(),
    descriptors: descriptorLimit(),
  }
}

/** Ports connections may leave from. */
export function localPorts(): number {
  const [first, last] = (read('/proc/sys/net/ipv4/ip_local_port_range') ?? '').trim().split(/\s+/).map(Number)
  return first && last ? last - first + 1 : DYNAMIC_PORTS
}

/** Folders of the control group this process is in, of either version: cgroups(7). They may be missing. */
export function controlGroup(): { v1: string, v2: string } {
  const groups = read('/proc/self/cgroup') ?? ''
  const path = (pattern: RegExp) => pattern.exec(groups)?.[1]?.replace(/\/$/, '') ?? ''
  return {
    v1: `/sys/fs/cgroup/cpu${path(/^\d+:(?:[^:]*,)?cpu(?:,[^:]*)?:(.*)$/m)}`,
    v2: `/sys/fs/cgroup${path(/^0::(.*)$/m)}`,
  }
}

function cgroupCores(): number | undefined {
  const { v1, v2 } = controlGroup()
  const held = (quota: number, period: number) => (quota > 0 && period > 0 ? quota / period : undefined)
  const [quota, period] = (read(`${v2}/cpu.max`) ?? '').split(' ').map(Number)
  return (
    held(Number(read(`${v1}/cpu.cfs_quota_us`)), Number(read(`${v1}/cpu.cfs_period_us`))) ??
    held(quota ?? 0, period ?? 0)
  )
}

function descriptorLimit(): number {
  return Number(/^Max open files\s+(\d+)/m.exec(read('/proc/self/limits') ?? '')?.[1] ?? 1024)
}

function read(path: string): string | undefined {
  try {
    return readFileSync(path, 'utf8')
  }
  catch {
    return undefined
  }
}

function positive(text: string | undefined): number | undefined {
  const n = Number(text)
  return n > 0 ? n : undefined
}
