/** Tries a host, step by step: reach, host key, sign in, runtime, disk, clock, ports, idle CPU. The first step that fails ends it. */
import type { HostTry, SettledHost, TryStep } from '../../../core/fleet/site'
import type { Clock } from '../../clock'
import { busy, clockFar, diskFull, fewPorts, HostProblem, LEAST_DISK_MB, noFolder, noNode } from './problem'
import { openSession, type KeyRoom, type Session } from './session'

/** Least major version of Node. */
const LEAST_NODE = 20
/** Fewer local ports would be used up by short connections. */
const LEAST_PORTS = 1000
/** Least idle share of the CPU. Common practice, no source. */
const LEAST_IDLE = 0.5
/** A clock further off than this fails its step, ms. */
const FAR_OFF_MS = 2000

/** What a host says of itself. */
export interface HostFindings {
  home: string
  node: string
  folderError: string
  diskFreeMb: number
  cores: number
  memoryMb: number
  descriptors: number
  ports: number
  idle: number
  clock: { offsetMs: number, roundTripMs: number }
}

export async function tryHost(host: SettledHost, room: KeyRoom, clock: Clock): Promise<HostTry> {
  const steps: HostTry['steps'] = []
  const ok = (step: TryStep, said: string) => steps.push({ step, ok: true, said })
  let facts: HostTry['facts']
  const result = (): HostTry => ({ at: clock.now(), steps, ...(facts ? { facts } : {}) })
  const began = clock.now()
  const known = room.pinned(host.address, host.port)
  let session: Session | undefined
  try {
    session = await openSession(host, room)
    ok('reach', `${Math.round(clock.now() - began)} ms to be let in`)
    ok('hostKey', known ? `is the one seen before: ${known}` : `seen for the first time, pinned: ${room.pinned(host.address, host.port)}`)
    ok('signIn', `as ${host.user}${host.jump ? ` through ${host.jump.address}` : ''}`)
    const found = await findings(session, host, clock)
    facts = { node: found.node, cores: found.cores, memoryMb: found.memoryMb }
    checkRuntime(host, found)
    ok('runtime', `Node ${found.node}`)
    checkDisk(host, found)
    ok('disk', `${(found.diskFreeMb / 1024).toFixed(1)} GB free in ${host.folder}`)
    const { offsetMs, roundTripMs } = found.clock
    if (Math.abs(offsetMs) > FAR_OFF_MS + roundTripMs) throw clockFar(offsetMs)
    ok('clock', `within ${Math.ceil(Math.abs(offsetMs) + roundTripMs / 2)} ms`)
    if (found.ports < LEAST_PORTS) throw fewPorts(found.ports)
    ok('ports', `${found.ports} local ports, ${found.descriptors} descriptors`)
    if (found.idle < LEAST_IDLE) throw busy(found.idle)
    ok('idle', `${Math.round(found.idle * 100)} % of ${found.cores} cores`)
    return result()
  }
  catch (error) {
    if (!(error instanceof HostProblem)) throw error
    // A step that a later one needed has been passed.
    const order: TryStep[] = ['reach', 'hostKey', 'signIn']
    for (const step of order.slice(0, Math.max(0, order.indexOf(error.step)))) if (!steps.some(s => s.step === step)) ok(step, 'passed')
    steps.push({ step: error.step, ok: false, said: error.message, remedy: error.remedy })
    return result()
  }
  finally { session?.close() }
}

export function checkRuntime(host: SettledHost, { node }: HostFindings): void {
  if (Number(/^v(\d+)/.exec(node)?.[1] ?? 0) < LEAST_NODE) throw noNode(host.node, node)
}

export function checkDisk(host: SettledHost, { folderError, diskFreeMb }: HostFindings): void {
  if (folderError) throw noFolder(host.folder, folderError)
  if (diskFreeMb < LEAST_DISK_MB) throw diskFull(host.folder, diskFreeMb)
}

/** The working directory as a shell finds it. */
export function shellPath(folder: string): string {
  return folder.startsWith('~/') ? `"$HOME"/${folder.slice(2)}` : folder
}

/** Asks a host about itself, in one go. */
export async function findings(session: Session, host: SettledHost, clock: Clock): Promise<HostFindings> {
  const folder = shellPath(host.folder)
  const script = `
say() { printf 'vornak:%s=%s\\n' "$1" "$2"; }
say home "$HOME"
say node "$(${host.node} --version 2>/dev/null)"
made=no; [ -d ${folder} ] || made=yes
say folderError "$(mkdir -p ${folder} 2>&1 && { [ -w ${folder} ] || echo 'it is not writable'; })"
say disk "$(df -Pk ${folder} 2>/dev/null | awk 'NR==2 { print $4 }')"
[ $made = yes ] && rmdir ${folder} 2>/dev/null
say cores "$(getconf _NPROCESSORS_ONLN 2>/dev/null)"
say memory "$(awk '/^MemTotal/ { print $2 }' /proc/meminfo 2>/dev/null)"
say descriptors "$(ulimit -n)"
say ports "$(cat /proc/sys/net/ipv4/ip_local_port_range 2>/dev/null)"
say stat "$(head -n 1 /proc/stat 2>/dev/null)"
sleep 0.5 2>/dev/null || sleep 1
say later "$(head -n 1 /proc/stat 2>/dev/null)"
`
  const { out, err } = await session.run('/bin/sh -s', { input: script })
  const said = readSaid(out)
  if (said.home === undefined) throw new HostProblem('signIn', `${host.address} runs no shell for ${host.user}: ${(err || out).trim().slice(0, 200) || 'it said nothing'}`, 'Give the user a shell that can run commands.', true)
  const [first = 32_768, last = 60_999] = (said.ports ?? '').trim().split(/\s+/).filter(Boolean).map(Number)
  return {
    home: said.home, node: said.node ?? '', folderError: said.folderError ?? '', diskFreeMb: said.disk ? Math.floor(Number(said.disk) / 1024) : Number.MAX_SAFE_INTEGER,
    cores: Number(said.cores) || 1, memoryMb: Math.floor((Number(said.memory) || 0) / 1024), descriptors: Number(said.descriptors) || 1024, ports: last - first + 1,
    idle: idleShare(said.stat, said.later), clock: await clockOf(session, clock),
  }
}

async function clockOf(session: Session, clock: Clock): Promise<HostFindings['clock']> {
  const t1 = clock.now()
  const { out } = await session.run(`/bin/sh -c 'printf "vornak:now=%s\\n" "$(date +%s%3N)"'`)
  const t4 = clock.now()
  const text = readSaid(out).now ?? ''
  // A date that knows no milliseconds leaves its letters in.
  const now = /^\d{13}$/.test(text) ? Number(text) : Number(text.slice(0, 10)) * 1000 + 500
  return { offsetMs: now > 0 ? now - (t1 + t4) / 2 : 0, roundTripMs: t4 - t1 }
}

/** Lines of ours among whatever else a host prints. */
export function readSaid(out: string): Record<string, string | undefined> {
  return Object.fromEntries([...out.matchAll(/vornak:(\w+)=(.*)/g)].map(m => [m[1]!, m[2]!]))
}

/** Between two first lines of /proc/stat: user, nice, system, idle, iowait … in ticks (proc(5)). */
function idleShare(before = '', after = ''): number {
  const ticks = (line: string) => line.trim().split(/\s+/).slice(1).map(Number)
  const [a, b] = [ticks(before), ticks(after)]
  const total = b.reduce((sum, n, i) => sum + n - (a[i] ?? 0), 0)
  if (!(total > 0)) return 1
  return ((b[3]! - a[3]!) + ((b[4] ?? 0) - (a[4] ?? 0))) / total
}
