/** Reads what a command writes: one JSON object a line, each a sample. docs/command-journeys.md. */

export interface Sample {
  step: string
  durationMs: number
  ok: boolean
  /** Of the answer, 0 where the command does not say. */
  status: number
  /** Bytes received, and sent. */
  bytes: number
  sent: number
  message: string
  /** When it ended, ms since 1970; undefined: now. */
  atMs: number | undefined
}

/** Longest line read, characters: an endless one must not fill the memory. */
const MOST_LINE_CHARACTERS = 64 * 1024

/** @returns what is wrong with the line, in words, when it is no sample */
export function readSample(line: string): Sample | string {
  let raw: unknown
  try {
    raw = JSON.parse(line)
  }
  catch {
    return 'it is not JSON'
  }
  if (typeof raw !== 'object' || raw === null || Array.isArray(raw)) return 'it is no JSON object'
  const { step, duration, ok, status, bytes, sent, message, time } = raw as Record<string, unknown>
  if (typeof step !== 'string' || step === '') return '“step” is missing'
  if (typeof duration !== 'number' || !(duration >= 0)) return '“duration” is no number of milliseconds'
  if (typeof ok !== 'boolean') return '“ok” is neither true nor false'
  const atMs = typeof time === 'number' ? time : typeof time === 'string' ? Date.parse(time) : Number.NaN
  return {
    step,
    durationMs: duration,
    ok,
    status: typeof status === 'number' && Number.isInteger(status) && status >= 100 && status <= 999 ? status : 0,
    bytes: whole(bytes),
    sent: whole(sent),
    message: typeof message === 'string' ? message.slice(0, 2000) : '',
    atMs: Number.isFinite(atMs) ? atMs : undefined,
  }
}

/** A number of bytes; 0 where it is none. */
function whole(n: unknown): number {
  return typeof n === 'number' && n >= 0 && Number.isFinite(n) ? Math.round(n) : 0
}

/** Cuts a stream of text into lines; what is too long for one is given up. */
export class Lines {
  private rest = ''
  private skipping = false

  constructor(private readonly take: (line: string) => void) {}

  add(text: string): void {
    const parts = (this.rest + text).split('\n')
    this.rest = parts.pop()!
    for (const line of parts) {
      if (this.skipping) this.skipping = false
      else if (line.trim() !== '') this.take(line)
    }
    if (this.rest.length > MOST_LINE_CHARACTERS) {
      this.rest = ''
      this.skipping = true
    }
  }

  end(): void {
    if (this.rest.trim() !== '' && !this.skipping) this.take(this.rest)
    this.rest = ''
  }
}
