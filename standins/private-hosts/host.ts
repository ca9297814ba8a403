/**
 * One private host: lets one user in with one key, runs commands in its home, and nothing else. No forwarding, no
 * terminal; SFTP where it is allowed.
 */
import { spawn } from 'node:child_process'
import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import ssh2, { type Connection, type Server, type ServerChannel } from 'ssh2'
import { serveFiles } from './files'

export interface HostSettings {
  user: string
  /** One line as in authorized_keys. */
  publicKey: string
  sftp?: boolean
  /** Said before anybody is let in. */
  banner?: string
}

export class PrivateHost {
  private readonly server: Server
  private readonly home: string
  private readonly connections = new Set<Connection>()

  constructor(
    readonly name: string,
    readonly port: number,
    folder: string,
    settings: HostSettings,
  ) {
    this.home = join(folder, name, 'home')
    mkdirSync(this.home, { recursive: true, mode: 0o700 })
    const allowed = ssh2.utils.parseKey(settings.publicKey)
    if (allowed instanceof Error) throw allowed
    this.server = new ssh2.Server(
      { hostKeys: [hostKey(join(folder, name, 'host_key'))], ...(settings.banner ? { banner: settings.banner } : {}) },
      (connection) => {
        this.connections.add(connection)
        connection.on('error', () => {
          /* close follows */
        })
        connection.on('close', () => this.connections.delete(connection))
        connection.on('authentication', (context) => {
          const known =
            context.method === 'publickey' &&
            context.username === settings.user &&
            context.key.data.equals(allowed.getPublicSSH())
          if (
            known &&
            context.method === 'publickey' &&
            // With a signature comes what was signed.
            (!context.signature || allowed.verify(context.blob!, context.signature, context.hashAlgo) === true)
          )
            context.accept()
          else context.reject(['publickey'])
        })
        connection.on('ready', () => {
          connection.on('session', (accept) => {
            const session = accept()
            session.on('exec', (take, _, { command }) => this.run(command, take()))
            session.on('sftp', (take, refuse) => {
              if (settings.sftp === false) refuse()
              else serveFiles(take())
            })
          })
        })
      },
    )
  }

  listen(): Promise<void> {
    return new Promise((resolve, reject) => {
      this.server.once('error', reject)
      this.server.listen(this.port, '127.0.0.1', () => resolve())
    })
  }

  /** As if somebody had pulled the plug: whatever was started here ends. */
  powerOff(): void {
    for (const connection of this.connections) connection.end()
    const work = join(this.home, 'vornak')
    for (const folder of existsSync(work) ? readdirSync(work) : []) {
      try {
        process.kill(Number(readFileSync(join(work, folder, 'pid'), 'utf8')), 'SIGKILL')
      }
      catch {
        /* nothing runs there */
      }
    }
  }

  /** Ends the connections; what runs goes on. */
  unplug(): void {
    for (const connection of this.connections) connection.end()
  }

  private run(command: string, channel: ServerChannel): void {
    const child = spawn('/bin/sh', ['-c', command], {
      cwd: this.home,
      env: { PATH: process.env.PATH, HOME: this.home },
    })
    channel.pipe(child.stdin)
    child.stdin.on('error', () => {
      /* it reads no more */
    })
    child.stdout.pipe(channel, { end: false })
    child.stderr.pipe(channel.stderr, { end: false })
    child.on('close', (code, signal) => {
      if (signal) channel.exit(signal.replace(/^SIG/, ''))
      else channel.exit(code ?? 0)
      channel.end()
    })
    channel.on('close', () => child.stdin.end())
  }
}

/**
 * Made once, and the same ever after: anyone who pins it would be told of a change. Not ed25519: of those, ssh2 makes
 * one in 256 that it cannot read again.
 */
function hostKey(file: string): string {
  if (!existsSync(file))
    writeFileSync(file, ssh2.utils.generateKeyPairSync('ecdsa', { bits: 256 }).private, { mode: 0o600 })
  return readFileSync(file, 'utf8')
}
