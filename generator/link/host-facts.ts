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

/** Whether this machine is a part of a computer only: then what the kernel says of the whole computer is not about it. */
export function isPartOfComputer(env: NodeJS.ProcessEnv = process.env): boolean {
  return positive(env.VORNAK_CORES) !== undefined || cgroupCores() !== undefined
}

/** Ports connections may leave from. */
export function localPorts(): number {
  const [first, last] = (read('/proc/sys/net/ipv4/ip_local_port_range') ?? '').trim().split(/\s+/).map(Number)
  return first && last ? last - first + 1 : DYNAMIC_PORTS
}

function cgroupCores(): number | undefined {
  const path = /^\d+:(?:[^:]*,)?cpu(?:,[^:]*)?:(.*)$/m.exec(read('/proc/self/cgroup') ?? '')?.[1]
  if (path) {
    const quota = Number(read(`/sys/fs/cgroup/cpu${path}/cpu.cfs_quota_us`))
    const period = Number(read(`/sys/fs/cgroup/cpu${path}/cpu.cfs_period_us`))
    if (quota > 0 && period > 0) return quota / period
  }
  const unified = /^0::(.*)$/m.exec(read('/proc/self/cgroup') ?? '')?.[1]
  const [quota, period] = (read(`/sys/fs/cgroup${unified ?? ''}/cpu.max`) ?? '').split(' ').map(Number)
  return quota && period && quota > 0 ? quota / period : undefined
}

function descriptorLimit(): number {
  return Number(/^Max open files\s+(\d+)/m.exec(read('/proc/self/limits') ?? '')?.[1] ?? 1024)
}

function read(path: string): string | undefined {
  try { return readFileSync(path, 'utf8') }
  catch { return undefined }
}

function positive(text: string | undefined): number | undefined {
  const n = Number(text)
  return n > 0 ? n : undefined
}
