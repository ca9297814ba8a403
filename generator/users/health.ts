/** A worker's own signals, read once a second: is it the target that is slow, or this machine? */
import { readFileSync } from 'node:fs'
import { monitorEventLoopDelay, performance, type EventLoopUtilization, type IntervalHistogram } from 'node:perf_hooks'
import type { Health } from '../../core/capacity/signals'
import type { HostFacts } from '../../protocol/messages'
import { controlGroup, localPorts } from '../link/host-facts'

/** Resolution of the event-loop delay monitor, ms; its readings include it. Costs 0.6 % of a thread. */
const RESOLUTION_MS = 10
/** Over less than this a share says nothing, ms. */
const LEAST_MS = 200

export class HealthReader {
  private readonly loop: IntervalHistogram = monitorEventLoopDelay({ resolution: RESOLUTION_MS })
  private lags = new Float32Array(256)
  private lagCount = 0
  private cpu = process.cpuUsage()
  private use: EventLoopUtilization = performance.eventLoopUtilization()
  private at = performance.now()
  private readonly group = controlGroup()
  private machine = this.readMachine()
  private openSockets = 0
  private last: Health | undefined
  private readonly ports = localPorts()

  /** @param linkBytesPerS what the network interface carries; left out: not known */
  constructor(
    private readonly host: HostFacts,
    private readonly linkBytesPerS = linkSpeed(),
  ) {
    this.loop.enable()
  }

  readonly lag = (ms: number): void => {
    if (this.lagCount === this.lags.length) {
      const grown = new Float32Array(this.lags.length * 2)
      grown.set(this.lags)
      this.lags = grown
    }
    this.lags[this.lagCount++] = ms
  }

  readonly sockets = {
    opened: () => {
      this.openSockets++
    },
    closed: () => {
      this.openSockets--
    },
  }

  /**
   * Reads the signals since the last reading. CPU and memory are of the whole process, what is stolen and carried of
   * the whole machine.
   */
  readonly read = (): Health => {
    const now = performance.now()
    // After a stall two seconds are cut at once: the second of them has nothing of its own to say.
    if (this.last && now - this.at < LEAST_MS) return this.last
    const used = process.cpuUsage(this.cpu)
    const elapsedMs = Math.max(1, now - this.at)
    this.cpu = process.cpuUsage()
    this.at = now
    const loopDelayP99Ms = Math.max(0, this.loop.percentile(99) / 1e6 - RESOLUTION_MS)
    this.loop.reset()
    const before = this.use
    this.use = performance.eventLoopUtilization()
    const sorted = this.lags.subarray(0, this.lagCount).sort()
    const scheduleLagP99Ms = this.lagCount > 0 ? sorted[Math.max(0, Math.ceil(this.lagCount * 0.99) - 1)]! : 0
    this.lagCount = 0
    const machineBefore = this.machine
    const machine = (this.machine = this.readMachine())
    return (this.last = {
      cpuShare: (used.user + used.system) / 1000 / elapsedMs / this.host.cores,
      loopDelayP99Ms: Number.isFinite(loopDelayP99Ms) ? loopDelayP99Ms : 0,
      scheduleLagP99Ms,
      memoryShare: process.memoryUsage.rss() / this.host.memoryBytes,
      socketShare: this.openSockets / this.host.descriptors,
      loopUse: performance.eventLoopUtilization(this.use, before).utilization,
      throttledShare: (machine.throttledNs - machineBefore.throttledNs) / 1e6 / elapsedMs,
      // A part of a computer is told the whole's: it comes from the same.
      stolenShare:
        machine.ticks > machineBefore.ticks
          ? (machine.stolen - machineBefore.stolen) / (machine.ticks - machineBefore.ticks)
          : 0,
      portShare: this.openSockets / this.ports,
      bandwidthShare:
        this.linkBytesPerS === undefined
          ? 0
          : (machine.bytes - machineBefore.bytes) / (elapsedMs / 1000) / this.linkBytesPerS,
    })
  }

  stop(): void {
    this.loop.disable()
  }

  private readMachine(): MachineCounts {
    return { ...countsOfMachine(), throttledNs: throttledNs(this.group) }
  }
}

/** What the kernel counts of the machine. Reading all three takes about 0.1 ms. */
interface MachineCounts {
  ticks: number
  stolen: number
  throttledNs: number
  bytes: number
}

function countsOfMachine(): Omit<MachineCounts, 'throttledNs'> {
  // proc(5): user, nice, system, idle, iowait, irq, softirq, steal; guest times are in user already.
  const cpu = (/^cpu +(.*)$/m.exec(read('/proc/stat'))?.[1] ?? '').split(' ').slice(0, 8).map(Number)
  let bytes = 0
  // proc(5), /proc/net/dev: bytes received are the first of an interface's fields, bytes sent the ninth. What stays
  // inside does not count.
  for (const [, name, fields] of read('/proc/net/dev').matchAll(/^ *([^:\n]+): *(.*)$/gm)) {
    if (name === 'lo') continue
    const numbers = (fields ?? '').split(/ +/).map(Number)
    bytes += Math.max(numbers[0]!, numbers[8]!)
  }
  return { ticks: cpu.reduce((sum, n) => sum + n, 0), stolen: cpu[7] ?? 0, bytes }
}

/** Time the control group was held back, ns: version 2 counts µs. */
function throttledNs({ v1, v2 }: { v1: string, v2: string }): number {
  const unified = /^throttled_usec (\d+)/m.exec(read(`${v2}/cpu.stat`))?.[1]
  if (unified !== undefined) return Number(unified) * 1000
  return Number(/^throttled_time (\d+)/m.exec(read(`${v1}/cpu.stat`))?.[1] ?? 0)
}

/** Bytes/s of the slowest interface that says its speed (sysfs, Mbit/s; −1 where there is none). */
function linkSpeed(): number | undefined {
  const speeds = [...read('/proc/net/dev').matchAll(/^ *([^:\n]+):/gm)]
    .map(m => Number(read(`/sys/class/net/${m[1]}/speed`)))
    .filter(mbit => mbit > 0)
  return speeds.length > 0 ? (Math.min(...speeds) * 1e6) / 8 : undefined
}

function read(path: string): string {
  try {
    return readFileSync(path, 'utf8')
  }
  catch {
    return ''
  }
}
