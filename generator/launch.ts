/**
 * How a generator lives on a host it was brought to over SSH. `launch` reads what it is to be from standard input,
 * starts it apart from the connection, and says its process id; launching one that runs already changes nothing.
 * `relay` connects standard input and output to it. A watchdog ends it when its lease is long over and it has not ended
 * itself.
 */
import { spawn } from 'node:child_process'
import { closeSync, existsSync, mkdirSync, openSync, readFileSync, writeFileSync } from 'node:fs'
import { connect } from 'node:net'
import { join } from 'node:path'
import { asError } from '../core/values/thrown'
import { present } from '../core/values/present'

/** Given on standard input, as JSON: nothing secret is ever in the arguments, which other processes can read. */
export interface LaunchOrder {
  folder: string
  token: string
  machine: string
  leaseS: number
  cores?: number
  memoryMb?: number
  proxy?: string
  /** Further variables of its environment, such as NODE_EXTRA_CA_CERTS. */
  environment?: Record<string, string>
}

/** The watchdog gives the lease this much grace, s. */
const WATCHDOG_GRACE_S = 60

export const SOCKET_FILE = 'link'
const PID_FILE = 'pid'
const LOG_FILE = 'generator.log'
/** Moment the watchdog ends it, s since 1970. */
const LEASE_FILE = 'ends-at'

export async function launch(program: string): Promise<void> {
  let text = ''
  for await (const chunk of process.stdin) text += String(chunk)
  // Written by the controller of this release, which brought this program.
  const order = JSON.parse(text) as LaunchOrder
  mkdirSync(order.folder, { recursive: true, mode: 0o700 })
  const running = runningPid(order.folder)
  if (running !== undefined) return say(running, true)
  noteLease(order.folder, order.leaseS * 1000)
  const log = openSync(join(order.folder, LOG_FILE), 'a', 0o600)
  const child = spawn(process.execPath, [program], {
    cwd: order.folder,
    detached: true,
    stdio: ['ignore', log, log],
    env: {
      PATH: process.env.PATH,
      HOME: process.env.HOME,
      ...order.environment,
      VORNAK_FOLDER: order.folder,
      VORNAK_TOKEN: order.token,
      VORNAK_MACHINE: order.machine,
      VORNAK_LINK: 'socket-file',
      ...(order.cores ? { VORNAK_CORES: String(order.cores) } : {}),
      ...(order.memoryMb ? { VORNAK_MEMORY_MB: String(order.memoryMb) } : {}),
      ...(order.proxy ? { VORNAK_PROXY: order.proxy } : {}),
    },
  })
  closeSync(log)
  await new Promise((resolve, reject) => {
    child.once('spawn', resolve)
    child.once('error', reject)
  })
  const pid = present(child.pid, 'the id of a process that was started')
  writeFileSync(join(order.folder, PID_FILE), String(pid), { mode: 0o600 })
  child.unref()
  watchdog(order.folder, pid)
  say(pid, false)
}

function say(pid: number, already: boolean): void {
  process.stdout.write(`vornak:pid=${pid}\nvornak:already=${already}\n`)
}

/** @returns undefined when none runs, or when its id has gone to another program since */
function runningPid(folder: string): number | undefined {
  try {
    const pid = Number(readFileSync(join(folder, PID_FILE), 'utf8'))
    process.kill(pid, 0)
    if (
      existsSync('/proc/self/environ') &&
      !readFileSync(`/proc/${pid}/environ`, 'utf8').includes(`VORNAK_FOLDER=${folder}`)
    )
      return undefined
    return pid
  }
  catch {
    return undefined
  }
}

/** Tells the watchdog the lease as it is now. */
export function noteLease(folder: string, leaseMs: number): void {
  try {
    writeFileSync(join(folder, LEASE_FILE), String(Math.ceil((Date.now() + leaseMs) / 1000) + WATCHDOG_GRACE_S), {
      mode: 0o600,
    })
  }
  catch {
    /* the folder has been taken away: the one who did that ends the generator too */
  }
}

/** Held against its environment, where the system shows that: its number may have gone to another program since. */
const WATCHDOG = `
pid=$1 ends=$2 folder=$3
ours() {
  kill -0 "$pid" 2>/dev/null || return 1
  [ -r /proc/self/environ ] || return 0
  tr '\\0' '\\n' <"/proc/$pid/environ" 2>/dev/null | grep -qxF "VORNAK_FOLDER=$folder"
}
while sleep 5; do
  ours || exit 0
  [ "$(date +%s)" -lt "$(cat "$ends" 2>/dev/null || echo 0)" ] || { kill -9 "$pid"; exit 0; }
done`

/** A shell apart from everything: it needs nothing of this program to do its duty. */
function watchdog(folder: string, pid: number): void {
  spawn('/bin/sh', ['-c', WATCHDOG, 'vornak-watchdog', String(pid), join(folder, LEASE_FILE), folder], {
    detached: true,
    stdio: 'ignore',
    cwd: '/',
  }).unref()
}

/** Connects standard input and output to the generator of this folder. */
export function relay(folder: string): void {
  // From within its folder: the path of a socket has at most 107 bytes (unix(7)), and homes may be long.
  const absent = (error: Error) => {
    process.stderr.write(`No generator answers in ${folder}: ${error.message}\n`)
    process.exit(3)
  }
  try {
    process.chdir(folder)
  }
  catch (error) {
    absent(asError(error))
  }
  const socket = connect(SOCKET_FILE)
  socket.on('error', absent)
  socket.on('close', () => process.exit(0))
  process.stdin.pipe(socket)
  socket.pipe(process.stdout)
  process.stdout.on('error', () => process.exit(0))
}
