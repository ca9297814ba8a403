/** A command that runs on, on another host: whole lines as they come; it ends with us, whatever becomes of the link. */
import type { ClientChannel } from 'ssh2'
import { shellWord } from '../hosts/ssh/shell'

/** Of what it says of its own faults, so much is kept, characters. */
const MOST_ERR = 2000
/** A line without an end is given up at this, characters; so is what nobody takes. */
const MOST_WAITING = 1_000_000

export class RunningCommand {
  /** Once it has ended. */
  ended: { code: number | null, err: string } | undefined
  private waiting: { text: string, at: number }[] = []
  private size = 0
  private rest = ''

  /** @param now ms since 1970 */
  constructor(
    private readonly channel: ClientChannel,
    now: () => number,
  ) {
    const decoder = new TextDecoder()
    let err = ''
    let code: number | null = null
    channel.on('data', (chunk: Buffer) => this.take(decoder.decode(chunk, { stream: true }), now()))
    channel.stderr.on('data', (chunk: Buffer) => {
      err = `${err}${chunk.toString('utf8')}`.slice(-MOST_ERR)
    })
    channel.on('exit', (status: number | null) => {
      code = status
    })
    channel.on('close', () => {
      this.ended = { code, err }
    })
    channel.on('error', () => {
      /* close follows */
    })
  }

  /**
   * The line for a shell there. It has a group of its own where the host can make one, and ends when our end of its
   * standard input does; a broken link closes that, too.
   */
  static wrapped(line: string): string {
    const word = shellWord(line)
    const script = [
      `if command -v setsid >/dev/null 2>&1; then setsid sh -c ${word} </dev/null & else sh -c ${word} </dev/null & fi`,
      'p=$!',
      '{ cat >/dev/null; kill -s TERM -- -$p 2>/dev/null || kill -s TERM $p 2>/dev/null; } <&3 & c=$!',
      'wait $p; s=$?',
      'kill $c 2>/dev/null',
      'exit $s',
    ].join('\n')
    return `exec 3<&0; sh -c ${shellWord(script)}`
  }

  /** Whole lines that came since the last time, each with when it came. */
  taken(): { text: string, at: number }[] {
    const { waiting } = this
    this.waiting = []
    this.size = 0
    return waiting
  }

  end(): void {
    this.channel.end()
    this.channel.close()
  }

  private take(text: string, at: number): void {
    const all = this.rest + text
    const upTo = all.lastIndexOf('\n') + 1
    this.rest = all.slice(upTo).slice(-MOST_WAITING)
    if (upTo === 0 || this.size + upTo > MOST_WAITING) return
    this.waiting.push({ text: all.slice(0, upTo), at })
    this.size += upTo
  }
}
