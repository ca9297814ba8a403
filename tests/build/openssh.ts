/**
 * Private hosts for tests: Debian's own SSH server, one process and port a host, with keys, files and rules of its own.
 */
import { spawn, spawnSync, type ChildProcess } from 'node:child_process'
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { freePort } from '../../scripts/ports.cjs'
import { until } from './house'

const SSHD = '/usr/sbin/sshd'

/** A key to sign in with. */
export function clientKey(passphrase?: string): { private: string, public: string } {
  const folder = mkdtempSync(join(tmpdir(), 'vornak-key-'))
  const file = join(folder, 'key')
  newKeyFile(file, passphrase)
  const pair = { private: readFileSync(file, 'utf8'), public: readFileSync(`${file}.pub`, 'utf8').trim() }
  rmSync(folder, { recursive: true })
  return pair
}

/** Made by OpenSSH's own tool: what its users paste. Writes FILE and FILE.pub. */
function newKeyFile(file: string, passphrase = ''): void {
  const { status, stderr } = spawnSync(
    'ssh-keygen',
    ['-q', '-t', 'ed25519', '-C', 'test', '-N', passphrase, '-f', file],
    { encoding: 'utf8' },
  )
  if (status !== 0) throw new Error(`ssh-keygen made no key: ${stderr}`)
}

export interface HostRules {
  /** Line of authorized_keys. */
  publicKey: string
  sftp?: boolean
  forwarding?: boolean
  /** Lines of sshd_config besides. */
  more?: string[]
}

export class OpenSshHost {
  port = 0
  private child: ChildProcess | undefined

  /** @param folder the host's own: keys, and the working directory Vornak is given */
  constructor(
    readonly name: string,
    readonly folder: string,
    private readonly rules: HostRules,
  ) {
    mkdirSync(join(folder, 'home'), { recursive: true, mode: 0o755 })
    mkdirSync('/run/sshd', { recursive: true })
    writeFileSync(join(folder, 'authorized_keys'), `${rules.publicKey}\n`, { mode: 0o600 })
  }

  /** Where Vornak may work. */
  get work(): string {
    return join(this.folder, 'work')
  }

  async start(): Promise<this> {
    this.port ||= await freePort()
    const key = join(this.folder, 'host_key')
    if (!existsSync(key)) this.newKey()
    const config = join(this.folder, 'sshd_config')
    // Of several lines for one thing the first counts (sshd_config(5)).
    writeFileSync(
      config,
      [
        ...(this.rules.more ?? []),
        `Port ${this.port}`,
        'ListenAddress 127.0.0.1',
        `HostKey ${key}`,
        `AuthorizedKeysFile ${join(this.folder, 'authorized_keys')}`,
        'PidFile none',
        'UsePAM no',
        'StrictModes no',
        'PasswordAuthentication no',
        'PermitRootLogin yes',
        `AllowTcpForwarding ${this.rules.forwarding ? 'yes' : 'no'}`,
        'MaxStartups 100',
        'MaxSessions 50',
        // Not that of the one who runs the tests: what their shell does as it starts is no part of them.
        `SetEnv "HOME=${join(this.folder, 'home')}"`,
        ...(this.rules.sftp === false ? [] : ['Subsystem sftp internal-sftp']),
        '',
      ].join('\n'),
    )
    this.child = spawn(SSHD, ['-D', '-e', '-f', config], { stdio: ['ignore', 'ignore', 'ignore'] })
    await until(() => answers(this.port), 10_000, `sshd of ${this.name}`)
    return this
  }

  /** Another host key, as a host set up anew would have. */
  newKey(): void {
    const file = join(this.folder, 'host_key')
    rmSync(file, { force: true })
    newKeyFile(file)
  }

  /** Breaks every connection there is; the server goes on taking new ones, and what runs on the host goes on. */
  breakConnections(): number {
    const sessions = childrenOf(this.child!.pid!)
    for (const pid of sessions) {
      for (const child of childrenOf(pid)) if (comm(child) === 'sshd') process.kill(child, 'SIGKILL')
      try {
        process.kill(pid, 'SIGKILL')
      }
      catch {
        /* it went with its child */
      }
    }
    return sessions.length
  }

  async stop(): Promise<void> {
    const child = this.child
    if (!child || child.exitCode !== null) return
    const gone = new Promise(r => child.once('exit', r))
    this.breakConnections()
    child.kill('SIGKILL')
    await gone
  }

  /** Everything below the working directory. */
  left(): string[] {
    return existsSync(this.work) ? readdirSync(this.work) : []
  }
}

function answers(port: number): boolean {
  return (
    spawnSync('bash', ['-c', `exec 3<>/dev/tcp/127.0.0.1/${port} && head -c 4 <&3`], {
      encoding: 'utf8',
      timeout: 2000,
    }).stdout === 'SSH-'
  )
}

function childrenOf(pid: number): number[] {
  return readdirSync('/proc')
    .filter(p => /^\d+$/.test(p))
    .flatMap((p) => {
      try {
        return Number(/^PPid:\s+(\d+)/m.exec(readFileSync(`/proc/${p}/status`, 'utf8'))![1]) === pid ? [Number(p)] : []
      }
      catch {
        return []
      }
    })
}

function comm(pid: number): string {
  try {
    return readFileSync(`/proc/${pid}/comm`, 'utf8').trim()
  }
  catch {
    return ''
  }
}
