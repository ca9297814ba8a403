/** What this generator answers a roll call: itself, its machine, its way to each host. */
import { createHash } from 'node:crypto'
import { statfsSync } from 'node:fs'
import os from 'node:os'
import type { RollCallReport } from '../../core/fleet/roll-call'
import type { HostFacts, ToGenerator } from '../../protocol/messages'
import { RELEASE } from '../../protocol/version'
import { findRuntime } from '../command/runtimes'
import type { Proxy } from '../exchange/proxy'
import { localPorts } from '../link/host-facts'
import { reach } from './reach'
import { selfTest } from './self-test'

/**
 * A trial of the speed takes about this much CPU, ms; the best of three counts, for neighbours only ever slow it down.
 */
const TRIAL_MS = 15
const TRIALS = 3

export async function rollCallReport(
  { nonce, hosts, addressRanges, runtimes, selfTestS }: Extract<ToGenerator, { kind: 'rollCall' }>,
  { facts, folder, proxy }: { facts: HostFacts, folder: string, proxy?: Proxy | undefined },
): Promise<RollCallReport> {
  const [reached, found] = await Promise.all([
    Promise.all(hosts.map(h => reach(h.host, h.secure, { addressRanges }, proxy))),
    Promise.all(runtimes.map(findRuntime)),
  ])
  return {
    nonce,
    program: RELEASE,
    speed: speed(),
    memoryFreeBytes: os.freemem(),
    descriptors: facts.descriptors,
    ports: localPorts(),
    diskFreeBytes: diskFree(folder),
    reached,
    runtimes: found,
    ...(selfTestS > 0 ? { selfTest: await selfTest(selfTestS, facts.cores) } : {}),
  }
}

/** Hashes of a fixed 4 kB per ms of CPU: what the processor is, no matter what else it serves in this moment. */
function speed(): number {
  const block = Buffer.alloc(4096, 'vornak')
  let best = 0
  for (let trial = 0; trial < TRIALS; trial++) {
    const before = process.cpuUsage()
    let rounds = 0
    let usedMs = 0
    while (usedMs < TRIAL_MS) {
      for (let i = 0; i < 16; i++) createHash('sha256').update(block).digest()
      rounds += 16
      const { user, system } = process.cpuUsage(before)
      usedMs = (user + system) / 1000
    }
    best = Math.max(best, rounds / usedMs)
  }
  return best
}

function diskFree(folder: string): number {
  try {
    const { bavail, bsize } = statfsSync(folder)
    return bavail * bsize
  }
  catch {
    return -1
  }
}
