/**
 * The channels of one signed-in connection. Some hosts allow one at a time only (MaxSessions of sshd_config(5)): then
 * commands wait for one another, and where one is held open for long, further ones go over another connection.
 */
import type { Client, ClientChannel } from 'ssh2'
import { HostProblem } from './problem'
import { messageOf } from '../../../core/values/thrown'

/**
 * A channel that was refused is asked for again after these pauses, ms: one that has ended here may not be closed there
 * yet.
 */
const AGAIN_MS = [50, 100, 200, 400]

/**
 * Connections besides the first: one for what is held open, one for the rest, where the first keeps a session that has
 * ended.
 */
const MOST_BESIDES = 2

export class Channels {
  /** Those that end by themselves soon. */
  private readonly short = new Set<Promise<void>>()
  private held = 0
  private second: Promise<Channels> | undefined
  private closed = false

  /** @param where for messages @param another signs in once more @param further connections that may be made besides */
  constructor(
    private readonly client: Client,
    private readonly where: string,
    private readonly another: () => Promise<Client>,
    private readonly further = MOST_BESIDES,
  ) {
    client.once('close', () => {
      this.closed = true
      void this.second?.then(
        s => s.client.end(),
        () => {
          /* it never opened */
        },
      )
    })
  }

  /** @param held stays open until somebody ends it @throws HostProblem; undefined: the connection has ended */
  async open(command: string, held: boolean): Promise<ClientChannel | undefined> {
    for (let asked = 0; ;) {
      if (this.closed) return undefined
      try {
        return this.keep(await exec(this.client, command), held)
      }
      catch (error) {
        if (this.closed || isOver(error)) return undefined
        if (!isRefused(error))
          throw new HostProblem(
            'signIn',
            `${this.where} runs no command: ${messageOf(error)}`,
            'Allow this user to run commands over SSH.',
            true,
          )
        if (this.short.size > 0) {
          await Promise.race(this.short)
          continue
        }
        const pause = this.held > 0 ? undefined : AGAIN_MS[asked++]
        if (pause !== undefined) await new Promise(r => setTimeout(r, pause))
        // Nothing of ours is open here that ends soon, or a host keeps one that has ended.
        else if (this.further > 0) return (await this.beside()).open(command, held)
        else
          throw new HostProblem(
            'signIn',
            `${this.where} opens no session for a command: ${messageOf(error)}`,
            'Let sshd allow a session at least (MaxSessions), and look at who else uses them.',
            true,
          )
      }
    }
  }

  private beside(): Promise<Channels> {
    this.second ??= this.another()
      .then((client) => {
        client.on('error', () => {
          /* the close tells */
        })
        client.once('close', () => {
          this.second = undefined
        })
        return new Channels(client, this.where, this.another, this.further - 1)
      })
      .catch((error: unknown) => {
        this.second = undefined
        throw error
      })
    return this.second
  }

  private keep(channel: ClientChannel, held: boolean): ClientChannel {
    const ended = new Promise<void>(r => channel.once('close', () => r()))
    if (held) {
      this.held++
      void ended.then(() => {
        this.held--
      })
    }
    else {
      this.short.add(ended)
      void ended.then(() => this.short.delete(ended))
    }
    return channel
  }
}

function exec(client: Client, command: string): Promise<ClientChannel> {
  return new Promise((resolve, reject) =>
    client.exec(command, (error, opened) => (error ? reject(error) : resolve(opened))),
  )
}

/** The host opens no further channel, whatever is to be run in it (RFC 4254, 5.1). */
function isRefused(error: unknown): boolean {
  return /channel open failure/i.test(messageOf(error))
}

/** The connection has ended, though its close is still to be told: so ssh2 says of a socket that takes no more. */
function isOver(error: unknown): boolean {
  return messageOf(error) === 'Not connected'
}
