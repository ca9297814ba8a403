/** Frames not yet acknowledged, in order, so that neither a broken link nor a restart of the controller loses one. */
import { present } from '../../core/values/present'

interface Spooled {
  incarnation: number
  worker: number
  sequence: number
  bytes: Uint8Array
  sent: boolean
}

/** Most bytes kept, about two hours of ordinary frames. Past it the oldest go, and the ledger shows them as absent. */
const MOST_BYTES = 128 * 1024 * 1024
/**
 * What was kept while the link was down is sent as it is acknowledged: so much is under way, bytes. A thousand
 * generators that come back at once would bury the controller otherwise.
 */
const MOST_UNDER_WAY = 512 * 1024
/** Sent a second all the same, bytes: one frame that is never acknowledged holds up none behind it for ever. */
export const TRICKLE_BYTES = 64 * 1024

export class Spool {
  private frames: Spooled[] = []
  private size = 0
  /** Sent over this link and not acknowledged, bytes. */
  private underWay = 0

  /** @param send hands a frame to the link; false when it cannot take one now */
  constructor(private readonly send: (bytes: Uint8Array) => boolean) {}

  add(frame: Omit<Spooled, 'sent'>): void {
    this.frames.push({ ...frame, sent: false })
    this.size += frame.bytes.length
    while (this.size > MOST_BYTES) this.forget(present(this.frames.shift(), 'a frame, where any bytes are kept'))
    // What comes in goes out, whatever else waits.
    this.pump(frame.bytes.length)
  }

  /**
   * Sends what has not been sent over this link, oldest first, until the link is choked or enough is under way.
   *
   * @param atLeast sent however much is under way, bytes
   */
  pump(atLeast = 0): void {
    let due = atLeast
    for (const frame of this.frames) {
      if (frame.sent) continue
      if (this.underWay >= MOST_UNDER_WAY && due <= 0) return
      if (!this.send(frame.bytes)) return
      frame.sent = true
      this.underWay += frame.bytes.length
      due -= frame.bytes.length
    }
  }

  private forget({ bytes, sent }: Spooled): void {
    this.size -= bytes.length
    if (sent) this.underWay -= bytes.length
  }

  /** A new link: whatever is not acknowledged is sent again. */
  startOver(): void {
    for (const frame of this.frames) frame.sent = false
    this.underWay = 0
    this.pump()
  }

  /** Forgets what is safe: frames of this worker up to and including this number. */
  acknowledge(incarnation: number, worker: number, upTo: number): void {
    this.frames = this.frames.filter((f) => {
      const safe = f.incarnation === incarnation && f.worker === worker && f.sequence <= upTo
      if (safe) this.forget(f)
      return !safe
    })
    this.pump()
  }

  /** Another run begins: what is left of the one before cannot find its place any more. */
  clear(): void {
    this.frames = []
    this.size = this.underWay = 0
  }

  get waiting(): number {
    return this.frames.length
  }

  /**
   * Everything not acknowledged, each frame with its length before it (4 bytes, big endian): what is left on the
   * machine for the one that comes for it.
   */
  leftBehind(): Uint8Array | undefined {
    if (this.frames.length === 0) return undefined
    return Buffer.concat(
      this.frames.flatMap(({ bytes }) => {
        const head = Buffer.alloc(4)
        head.writeUInt32BE(bytes.length)
        return [head, bytes]
      }),
    )
  }
}
