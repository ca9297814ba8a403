/** What a host says of itself, and whether that will do. */
import type { SettledHost } from '../../../core/fleet/site'
import type { Clock } from '../../clock'
import { diskFull, HostProblem, LEAST_DISK_MB, noFolder, noNode, noTools } from './problem'
import type { SshSession } from './session'
import { shellPath, shellWord } from './shell'

/** Least major version of Node. */
const LEAST_NODE = 20
/** Programs that are used there besides Node. */
const TOOLS = ['sha256sum', 'base64', 'tail']

/** What a host says of itself. */
export interface HostFindings {
  home: string
  node: string
  /** Programs of ours that are not there. */
  missing: string[]
  /** Directories that were made to look at the working directory, the outermost first. */
  made: string[]
  folderError: string
  diskFreeMb: number
  cores: number
  memoryMb: number
  descriptors: number
  ports: number
  idle: number
  clock: { offsetMs: number, roundTripMs: number }
}

export function checkRuntime(host: SettledHost, { node, missing }: HostFindings): void {
  if (Number(/^v(\d+)/.exec(node)?.[1] ?? 0) < LEAST_NODE) throw noNode(host.node, node)
  if (missing.length > 0) throw noTools(missing)
}

export function checkDisk(host: SettledHost, { folderError, diskFreeMb }: HostFindings): void {
  if (folderError) throw noFolder(host.folder, folderError)
  if (diskFreeMb < LEAST_DISK_MB) throw diskFull(host.folder, diskFreeMb)
}

/** Asks a host about itself, in one go. The working directory is made where it is not there: what was made is told. */
export async function findings(session: SshSession, host: SettledHost, clock: Clock): Promise<HostFindings> {
  const folder = shellPath(host.folder)
  const script = `
say() { printf 'vornak:%s=%s\\n' "$1" "$2"; }
say home "$HOME"
say node "$(${shellWord(host.node)} --version 2>/dev/null)"
for t in ${TOOLS.join(' ')}; do command -v $t >/dev/null 2>&1 || say missing "$t"; done
# The one who makes a directory is told so, and only one of several at once is.
make() {
  if [ -z "$1" ] || [ -d "$1" ]; then return 0; fi
  case "$1" in */*) make "\${1%/*}" || return 1;; esac
  if e=$(mkdir "$1" 2>&1); then say made "$1"; elif ! [ -d "$1" ]; then say folderError "$e"; return 1; fi
}
make ${folder} && { [ -w ${folder} ] || say folderError 'it is not writable'; }
say disk "$(df -Pk ${folder} 2>/dev/null | awk 'NR==2 { print $4 }')"
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
  if (said.home === undefined)
    throw new HostProblem(
      'signIn',
      `${host.address} runs no shell for ${host.user}: ${(err || out).trim().slice(0, 200) || 'it said nothing'}`,
      'Give the user a shell that can run commands.',
      true,
    )
  const [first = 32_768, last = 60_999] = (said.ports ?? '').trim().split(/\s+/).filter(Boolean).map(Number)
  return {
    home: said.home,
    node: said.node ?? '',
    missing: allSaid(out, 'missing'),
    made: allSaid(out, 'made'),
    folderError: said.folderError ?? '',
    diskFreeMb: said.disk ? Math.floor(Number(said.disk) / 1024) : Number.MAX_SAFE_INTEGER,
    cores: Number(said.cores) || 1,
    memoryMb: Math.floor((Number(said.memory) || 0) / 1024),
    descriptors: Number(said.descriptors) || 1024,
    ports: last - first + 1,
    idle: idleShare(said.stat, said.later),
    clock: await clockOf(session, clock),
  }
}

async function clockOf(session: SshSession, clock: Clock): Promise<HostFindings['clock']> {
  const t1 = clock.now()
  const { out } = await session.run(`/bin/sh -c 'printf "vornak:now=%s\\n" "$(date +%s%3N)"'`)
  const t4 = clock.now()
  const text = readSaid(out).now ?? ''
  // A date that knows no milliseconds leaves its letters in.
  const now = /^\d{13}$/.test(text) ? Number(text) : Number(text.slice(0, 10)) * 1000 + 500
  return { offsetMs: now > 0 ? now - (t1 + t4) / 2 : 0, roundTripMs: t4 - t1 }
}

/** Lines of ours among whatever else a host prints. */
function linesOf(out: string): [word: string, said: string][] {
  return [...out.matchAll(/vornak:(\w+)=(.*)/g)].map(m => [m[1]!, m[2]!])
}

export function readSaid(out: string): Record<string, string | undefined> {
  return Object.fromEntries(linesOf(out))
}

/** The same word said several times. */
function allSaid(out: string, word: string): string[] {
  return linesOf(out).flatMap(([said, value]) => (said === word ? [value] : []))
}

/** Between two first lines of /proc/stat: user, nice, system, idle, iowait … in ticks (proc(5)). */
function idleShare(before = '', after = ''): number {
  const ticks = (line: string) => line.trim().split(/\s+/).slice(1).map(Number)
  const [a, b] = [ticks(before), ticks(after)]
  const total = b.reduce((sum, n, i) => sum + n - (a[i] ?? 0), 0)
  if (!(total > 0)) return 1
  return (b[3]! - a[3]! + ((b[4] ?? 0) - (a[4] ?? 0))) / total
}
