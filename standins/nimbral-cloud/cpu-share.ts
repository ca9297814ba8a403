/**
 * Holds a process to a share of the CPU in a way that leaves its latency alone until the share is used up: a kernel
 * quota that may be saved up, or, where no control group can be written, a token budget read from the scheduler's own
 * account. (Stopping half the time would ruin latency.)
 */
import { existsSync, mkdirSync, readdirSync, readFileSync, rmdirSync, writeFileSync } from 'node:fs'

/**
 * What is granted for a period, and once more of it when it was saved up: a collector's pause, on all threads at once,
 * or a crowd of timers passes without a stop. The kernel allows no larger burst than the quota itself. With 20 ms and
 * nothing saved up a generator at a third of its share was stopped for 30 ms every other second (measured).
 */
const PERIOD_US = 100_000
const V1 = '/sys/fs/cgroup/cpu'
const V2 = '/sys/fs/cgroup'
/** How often the token budget is read, ms. */
const BUDGET_MS = 5

export interface Hold {
  how: 'kernel quota' | 'token budget'
  /** Gives the process its freedom back; always before it is ended. */
  end(): void
}

/** @param cores CPU granted, in cores of this computer */
export function holdToShare(pid: number, name: string, cores: number): Hold {
  return kernelQuota(pid, name, cores) ?? tokenBudget(pid, cores)
}

function kernelQuota(pid: number, name: string, cores: number): Hold | undefined {
  const v1 = existsSync(`${V1}/cpu.cfs_quota_us`)
  const folder = `${v1 ? V1 : V2}/nimbral-${process.pid}-${name}`
  try {
    mkdirSync(folder)
    const quota = Math.max(1000, Math.round(PERIOD_US * cores))
    if (v1) {
      writeFileSync(`${folder}/cpu.cfs_period_us`, String(PERIOD_US))
      writeFileSync(`${folder}/cpu.cfs_quota_us`, String(quota))
      saveUp(`${folder}/cpu.cfs_burst_us`, quota)
    }
    else {
      writeFileSync(`${folder}/cpu.max`, `${quota} ${PERIOD_US}`)
      saveUp(`${folder}/cpu.max.burst`, quota)
    }
    writeFileSync(`${folder}/cgroup.procs`, String(pid))
  }
  catch {
    try {
      rmdirSync(folder)
    }
    catch {
      /* never made */
    }
    return undefined
  }
  return {
    how: 'kernel quota',
    end() {
      // The group can only go once its process has; its last threads take a moment.
      let tries = 0
      const remove = () => {
        try {
          rmdirSync(folder)
        }
        catch {
          if (tries++ < 50) setTimeout(remove, 100)
        }
      }
      remove()
    },
  }
}

/** Kernels before 5.14 save nothing up. */
function saveUp(file: string, quota: number): void {
  if (existsSync(file)) writeFileSync(file, String(quota))
}

function tokenBudget(pid: number, cores: number): Hold {
  let stopped = false
  let last = usedMs(pid)
  let at = performance.now()
  let budget = 0
  const signal = (name: 'SIGSTOP' | 'SIGCONT') => {
    try {
      process.kill(pid, name)
    }
    catch {
      /* it has ended */
    }
  }
  const timer = setInterval(() => {
    const now = performance.now()
    const used = usedMs(pid)
    // What is not used is saved up for a burst, as the kernel does.
    budget = Math.min((cores * PERIOD_US) / 1000, budget + cores * (now - at) - (used - last))
    last = used
    at = now
    if (!stopped && budget < 0) {
      stopped = true
      signal('SIGSTOP')
    }
    else if (stopped && budget > 0) {
      stopped = false
      signal('SIGCONT')
    }
  }, BUDGET_MS)
  return {
    how: 'token budget',
    end() {
      clearInterval(timer)
      signal('SIGCONT')
    },
  }
}

function usedMs(pid: number): number {
  let ns = 0
  try {
    for (const task of readdirSync(`/proc/${pid}/task`))
      ns += Number(readFileSync(`/proc/${pid}/task/${task}/schedstat`, 'utf8').split(' ')[0])
  }
  catch {
    /* it has ended */
  }
  return ns / 1e6
}
