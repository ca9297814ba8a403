/** What this machine grants: cores, memory, descriptors. A container's limits count, not the hardware's. */
import { readFileSync } from 'node:fs'
import os from 'node:os'
import type { HostFacts } from '../../protocol/messages'

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
