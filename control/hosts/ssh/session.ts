/**
 * One signed-in SSH connection to a host, maybe through another: commands, files, channels. The host's key is pinned at
 * first sight.
 */
import { createHash } from 'node:crypto'
import type { Duplex } from 'node:stream'
import ssh2, {
  type AnyAuthMethod,
  type Client,
  type ClientChannel,
  type ConnectConfig,
  type ParsedKey,
  type SFTPWrapper,
} from 'ssh2'
import type { SettledHost } from '../../../core/fleet/site'
import { Channels } from './channels'
import { CommandTimeout, HostProblem, keyChanged, noAgent, noSuchKey, noWayThrough, notReached, notSignedIn, notSsh } from './problem'
import { shellWord } from './shell'

/** What signing in needs from the house. */
export interface KeyRoom {
  /** The opened key of this name, or why it cannot be opened; undefined: there is none. */
  key(name: string): ParsedKey | Error | undefined
  /** Fingerprint pinned for a host; undefined: not seen before. */
  pinned(address: string, port: number): string | undefined
  pin(address: string, port: number, fingerprint: string): void
  /** Another key than the pinned one was shown. */
  refused?(address: string, port: number, fingerprint: string): void
}

export interface Said {
  code: number | null
  out: string
  err: string
}

/** A host that does not greet or let in within this is given up, ms. */
const READY_MS = 10_000
/** Silence that ends a connection: unanswered probes, and how far apart they are sent, ms. */
const PROBE_MS = 5000
const PROBES = 3
/** A command that takes longer is given up, ms. */
const COMMAND_MS = 30_000
/** Most of a command's output that is kept, bytes. */
const MOST_OUTPUT = 1024 * 1024

export interface SshSession {
  /**
   * Runs a command. What it reads from standard input comes from here, so that no secret is in its arguments. @throws
   * HostProblem when the connection ends
   */
  run(command: string, options?: { input?: string | Uint8Array, timeoutMs?: number }): Promise<Said>
  /** A command whose standard input and output are a stream, held open until somebody ends it. */
  channel(command: string): Promise<ClientChannel>
  /** Writes a file: over SFTP, or through the shell where SFTP is refused. @returns which way it took */
  write(path: string, content: Uint8Array): Promise<'SFTP' | 'shell'>
  onClose(tell: () => void): void
  close(): void
  /** Ends it at once: nobody answers at its other end. */
  drop(): void
}

/** @throws HostProblem */
export async function openSession(host: SettledHost, room: KeyRoom): Promise<SshSession> {
  return sessionOf(await connect(host, room), host, () => connect(host, room))
}

async function connect(host: SettledHost, room: KeyRoom): Promise<Client> {
  if (!host.jump) return signIn(host, room)
  const before = await signIn({ ...host, ...host.jump }, room)
  let way: Way | undefined
  try {
    way = await through(before, host, host.jump.address)
    const client = await signIn(host, room, way.stream)
    client.once('close', () => before.end())
    return client
  }
  catch (error) {
    const broken = await way?.broken()
    before.end()
    throw broken ?? error
  }
}

/** A way onwards from another host, and why it leads nowhere, where that is known. */
interface Way {
  stream: Duplex
  broken: () => Promise<HostProblem | undefined>
}

/** RFC 4254, 5.1: of channels that could not be opened. */
const CONNECT_FAILED = 2
/** A program that pipes and has ended says so within this, ms. */
const LAST_WORD_MS = 500

/** Pipes to an address and port with whatever a host has for it; both are given as arguments. */
const PIPE = [
  'if command -v nc >/dev/null 2>&1; then exec nc "$0" "$1"; fi',
  'if command -v ncat >/dev/null 2>&1; then exec ncat "$0" "$1"; fi',
  'if command -v socat >/dev/null 2>&1; then exec socat - "TCP:$0:$1"; fi',
  `if command -v bash >/dev/null 2>&1; then exec bash -c ${shellWord('exec 3<>"/dev/tcp/$0/$1" || exit 1; (cat <&3; kill $$) & cat >&3; kill $!')} "$0" "$1"; fi`,
  'exit 127',
].join('\n')

/**
 * A connection onwards from the host one goes through: forwarded, or piped by a program there where forwarding is off.
 */
function through(jump: Client, { address, port }: SettledHost, by: string): Promise<Way> {
  return new Promise((resolve, reject) => {
    jump.forwardOut('127.0.0.1', 0, address, port, (refused, stream) => {
      if (!refused) return resolve({ stream, broken: () => Promise.resolve(undefined) })
      // It forwards, but finds nobody there.
      if ((refused as { reason?: number }).reason === CONNECT_FAILED)
        return reject(notReached(`${address}:${port}`, `from ${by}: ${refused.message}`))
      jump.exec(`/bin/sh -c ${shellWord(PIPE)} ${shellWord(address)} ${port}`, (error, channel) => {
        if (error) return reject(noWayThrough(by, `it forwards nothing and runs no command: ${error.message}`))
        let code: number | null = null
        let said = ''
        channel.stderr.on('data', (chunk: Buffer) => {
          said = `${said}${chunk.toString('utf8')}`.slice(-300)
        })
        channel.on('exit', (status: number | null) => {
          code = status
        })
        const ended = new Promise<void>(r => channel.once('close', () => r()))
        resolve({
          stream: channel,
          broken: () =>
            Promise.race([ended, new Promise(r => setTimeout(r, LAST_WORD_MS))]).then(() =>
              code === 127
                ? noWayThrough(by, 'it forwards nothing, and has no program to pipe with')
                : code
                  ? notReached(
                      `${address}:${port}`,
                      `from ${by}: ${said.trim() || `the program that pipes ended with ${code}`}`,
                    )
                  : undefined,
            ),
        })
      })
    })
  })
}

// eslint-disable-next-line max-lines-per-function -- a closure: its functions share what it keeps
function signIn({ address, port, user, signIn: how }: SettledHost, room: KeyRoom, sock?: Duplex): Promise<Client> {
  const where = `${address}:${port}`
  const means: ConnectConfig = {}
  if (how.kind === 'agent') {
    if (!process.env.SSH_AUTH_SOCK) throw noAgent()
    means.agent = process.env.SSH_AUTH_SOCK
  }
  else {
    const found = room.key(how.key)
    if (!found) throw noSuchKey(how.key)
    if (found instanceof Error)
      throw new HostProblem(
        'signIn',
        `The key “${how.key}” cannot be opened: ${found.message}`,
        'Enter it again, with its passphrase.',
        true,
      )
    const methods: AnyAuthMethod[] = [
      { type: 'none', username: user },
      { type: 'publickey', username: user, key: found },
    ]
    means.authHandler = methods
  }
  return new Promise((resolve, reject) => {
    const client = new ssh2.Client()
    let wrongKey: HostProblem | undefined
    let greeted = false
    const fail = (error: Error & { code?: string, level?: string }) => {
      client.end()
      if (wrongKey) return reject(wrongKey)
      if (error instanceof HostProblem) return reject(error)
      if (error.level === 'client-authentication' || /authentication methods failed/i.test(error.message))
        return reject(notSignedIn(user, where, how.kind === 'agent' ? 'any key of the agent' : `the key “${how.key}”`))
      if (error.level === 'client-timeout' || /handshake/i.test(error.message))
        return reject(greeted ? notReached(where, error.message) : notSsh(where, error.message))
      if (error.level === 'protocol' || /protocol|ident/i.test(error.message))
        return reject(notSsh(where, error.message))
      reject(notReached(where, error.message || error.code || 'no answer'))
    }
    client.once('ready', () => {
      client.removeListener('error', fail)
      client.removeListener('close', closed)
      resolve(client)
    })
    const closed = () => fail(new Error('it hung up'))
    client.once('error', fail)
    // One failure may be told several times, and another later: the first tells what happened, the close the rest.
    client.on('error', () => {
      /* told by the first, or by the close */
    })
    client.once('close', closed)
    client.once('greeting', () => {
      greeted = true
    })
    client.connect({
      ...(sock ? { sock } : { host: address, port }),
      username: user,
      ...means,
      readyTimeout: READY_MS,
      keepaliveInterval: PROBE_MS,
      keepaliveCountMax: PROBES,
      hostVerifier: (key: Buffer) => {
        greeted = true
        const fingerprint = fingerprintOf(key)
        const before = room.pinned(address, port)
        if (before === undefined) room.pin(address, port, fingerprint)
        else if (before !== fingerprint) {
          wrongKey = keyChanged(where, before, fingerprint)
          room.refused?.(address, port, fingerprint)
        }
        return wrongKey === undefined
      },
    })
  })
}

/** As OpenSSH writes it. */
export function fingerprintOf(key: Buffer): string {
  return `SHA256:${createHash('sha256').update(key).digest('base64').replace(/=+$/, '')}`
}

// eslint-disable-next-line max-lines-per-function -- a closure: its functions share what it keeps
function sessionOf(client: Client, { address, port }: SettledHost, another: () => Promise<Client>): SshSession {
  const where = `${address}:${port}`
  const channels = new Channels(client, where, another)
  const lost = () => notReached(where, 'the connection broke')

  async function open(command: string, held: boolean): Promise<ClientChannel> {
    const opened = await channels.open(command, held)
    if (!opened) throw lost()
    return opened
  }

  async function run(
    command: string,
    { input, timeoutMs = COMMAND_MS }: { input?: string | Uint8Array, timeoutMs?: number } = {},
  ): Promise<Said> {
    const opened = await open(command, false)
    return new Promise((resolve, reject) => {
      const out: Buffer[] = []
      const err: Buffer[] = []
      let size = 0
      const keep = (list: Buffer[]) => (chunk: Buffer) => {
        size += chunk.length
        if (size <= MOST_OUTPUT) list.push(chunk)
      }
      const end = () => {
        clearTimeout(timer)
        client.removeListener('close', broken)
      }
      const broken = () => {
        end()
        reject(lost())
      }
      const timer = setTimeout(() => {
        end()
        opened.close()
        reject(new CommandTimeout(where, timeoutMs))
      }, timeoutMs)
      client.once('close', broken)
      opened.on('data', keep(out))
      opened.stderr.on('data', keep(err))
      // A short command has ended before anybody listens: how it did is told once more with the close. Undefined: the
      // host never said, since a connection that breaks may close the channel first.
      opened.on('close', (code?: number | null) => {
        end()
        if (code === undefined) return reject(lost())
        resolve({ code, out: Buffer.concat(out).toString('utf8'), err: Buffer.concat(err).toString('utf8') })
      })
      opened.on('error', () => {
        /* close follows */
      })
      // Text or bytes: it takes either, which its types tell one by one.
      opened.end(input === undefined ? undefined : Buffer.from(input as Uint8Array))
    })
  }

  const sftp = () =>
    new Promise<SFTPWrapper | undefined>((resolve) => {
      client.sftp((error, opened) => resolve(error ? undefined : opened))
    })

  return {
    run,
    channel: command => open(command, true),
    async write(path, content) {
      const files = await sftp()
      if (files) {
        await new Promise<void>((resolve, reject) =>
          files.writeFile(path, Buffer.from(content), { mode: 0o600 }, error =>
            error
              ? reject(
                  new HostProblem(
                    'disk',
                    `${path} could not be written on ${where}: ${error.message}`,
                    'Look at the disk and the rights of the working directory.',
                    false,
                  ),
                )
              : resolve(),
          ),
        ).finally(() => files.end())
        return 'SFTP'
      }
      const { code, err } = await run(`umask 077 && cat > ${shellWord(path)}`, { input: content, timeoutMs: 120_000 })
      if (code !== 0)
        throw new HostProblem(
          'disk',
          `${path} could not be written on ${where}: ${err.trim() || `exit code ${code}`}`,
          'Look at the disk and the rights of the working directory.',
          false,
        )
      return 'shell'
    },
    onClose: (tell) => {
      client.once('close', tell)
    },
    close: () => {
      client.end()
    },
    drop: () => {
      client.destroy()
    },
  }
}
