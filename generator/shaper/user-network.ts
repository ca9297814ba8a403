/** The simulated network of one user: both lanes of its line, shared by all its connections. */
import { HANDSHAKE_TIMEOUT_MS } from '../../core/network/expected'
import { Lane, Pipe } from '../../core/network/pipe'
import type { NetworkProfile } from '../../core/network/profile'

/** What a user feels of a profile. One per user; connections are made from it. */
export class UserNetwork {
  readonly down: Lane
  readonly up: Lane

  constructor(
    readonly profile: NetworkProfile,
    private readonly random: () => number,
  ) {
    this.down = new Lane(profile.downBps)
    this.up = new Lane(profile.upBps)
  }

  pipe(direction: 'down' | 'up', realRttMs: number): Pipe {
    const { latencyMs, jitterMs, loss } = this.profile
    return new Pipe({ latencyMs, jitterMs, loss, realRttMs, lane: this[direction], random: this.random })
  }

  /**
   * How much longer a connection takes to open: the added round trip, and a second, then two … for each handshake
   * packet lost.
   */
  handshakeMs(): number {
    const { latencyMs, jitterMs, loss } = this.profile
    const normal =
      jitterMs === 0 ? 0 : Math.sqrt(-2 * Math.log(1 - this.random())) * Math.cos(2 * Math.PI * this.random())
    let ms = Math.max(0, latencyMs + jitterMs * normal)
    for (let wait = HANDSHAKE_TIMEOUT_MS; this.random() < 1 - (1 - loss) ** 2; wait *= 2) ms += wait
    return ms
  }
}
